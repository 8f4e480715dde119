import { isCommon, LONGEST, SHORTEST, whyNoPassword } from "./passwords";

const ABOUT = ["Ottilie Fern", "ottilie.fern@fern-anvil.example"];

test.each([
  ["short", "slate!7", /at least 10 characters/],
  ["of nine letters outside the first plane", "🜁🜂🜃🜄🜅🜆🜇🜈🜉", /at least 10 characters/],
  ["too long", "ladder of slate and tin ".repeat(6), /at most 128/],
  ["one of the commonest", "1234567890", /everybody tries/],
  ["one of the commonest in another case", "QwertyUIOP", /everybody tries/],
  ["their name", "ottilie fern", /own name/],
  ["what stands before the @", "Ottilie.Fern", /own name/],
  ["few characters again and again", "abcabcabcabc", /more than three/],
])("a password that is %s is refused", (_, password, wanted) => {
  expect(whyNoPassword(password, ABOUT)).toMatch(wanted);
});

test.each(["slate ladder 41", "correct horse battery", `${"x".repeat(10)}yzw`, "🜁🜂🜃🜄🜅🜆🜇🜈🜉🜊"])(
  "%s is taken",
  (password) => {
    expect(whyNoPassword(password, ABOUT)).toBeNull();
  },
);

test("bounds of the length are taken", () => {
  expect(whyNoPassword("ladd3r-tin".slice(0, SHORTEST), ABOUT)).toBeNull();
  expect(whyNoPassword("ladd3r-tin-".repeat(12).slice(0, LONGEST), ABOUT)).toBeNull();
});

test("ten thousand passwords are known, and what is rare is not among them", () => {
  for (const common of ["password", "iloveyou", "letmein", "dragon", "superman"]) expect(isCommon(common)).toBe(true);
  expect(isCommon("slate-anvil-fern-1871")).toBe(false);
});
