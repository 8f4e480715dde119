/** Unit tests stand beside the code they test. */
export default {
  // A slow machine must not fail a test: a hang is all that is caught.
  testTimeout: 180_000,
  testEnvironment: "node",
  roots: ["<rootDir>/src"],
  testMatch: ["**/*.test.ts"],
  transform: {
    "^.+\\.tsx?$": ["@swc/jest", { jsc: { target: "es2022", parser: { syntax: "typescript", tsx: true } } }],
  },
  moduleNameMapper: { "^@/(.*)$": "<rootDir>/src/$1" },
};
