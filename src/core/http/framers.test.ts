import { originsIn } from "./framers";
import { documentPolicy } from "./headers";

test("origins are taken as they are, and what is none is refused", () => {
  expect(originsIn("", "X")).toEqual([]);
  expect(originsIn(" https://Wiki.fern-anvil.example, http://localhost:8080/ ", "X")).toEqual([
    "https://wiki.fern-anvil.example",
    "http://localhost:8080",
  ]);
  for (const wrong of [
    "*",
    "https://*.fern-anvil.example",
    "wiki",
    "https://a.example/path",
    "ftp://a.example",
    "https://a.example; script-src *",
    "https://a.example 'self'",
    "javascript:alert(1)",
  ])
    expect(() => originsIn(wrong, "TIN_FRAME_ORIGINS")).toThrow(/^TIN_FRAME_ORIGINS: /);
});

test("a document is shown in frames of those who are named, and of nobody else", () => {
  expect(documentPolicy("n", false)).toContain("frame-ancestors 'none'");
  expect(documentPolicy("n", false, ["https://a.example", "http://localhost:1"])).toMatch(
    /frame-ancestors https:\/\/a\.example http:\/\/localhost:1$/,
  );
});
