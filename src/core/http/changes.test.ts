import { type Asked, sentWrongly } from "./changes";

const asked: Asked = {
  method: "POST",
  host: "localhost:4300",
  origin: "http://localhost:4300",
  site: "same-origin",
  contentType: "application/json",
  hasBody: true,
};

test.each([
  ["our own page", {}, null],
  ["a program", { origin: null, site: null }, null],
  ["JSON with a charset", { contentType: "application/json; charset=utf-8" }, null],
  ["a file", { contentType: "application/yaml" }, null],
  ["nothing to say", { contentType: null, hasBody: false }, null],
  ["looking", { method: "GET", origin: "http://fern-anvil.example", site: "cross-site" }, null],
  ["a page of another port", { origin: "http://localhost:8080", site: "same-site" }, 403],
  ["a page of another port in a browser that says no more", { origin: "http://localhost:8080", site: null }, 403],
  ["a page of another site", { origin: "https://fern-anvil.example", site: "cross-site" }, 403],
  ["a page that hides where it is", { origin: "null", site: "cross-site" }, 403],
  ["a page whose address begins like ours", { origin: "http://localhost:4300.fern-anvil.example" }, 403],
  ["a form", { contentType: "application/x-www-form-urlencoded" }, 415],
  ["a form with files", { contentType: "multipart/form-data; boundary=x" }, 415],
  ["a beacon", { contentType: "text/plain;charset=UTF-8" }, 415],
  ["a body of no kind", { contentType: null }, 415],
  ["a kind that begins like ours", { contentType: "application/jsonp" }, 415],
] as [string, Partial<Asked>, number | null][])("%s", (_, parts, status) => {
  expect(sentWrongly({ ...asked, ...parts })?.status ?? null).toBe(status);
});
