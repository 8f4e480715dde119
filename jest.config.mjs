/** Unit tests stand beside the code they test. */
export default {
  testEnvironment: "node",
  roots: ["<rootDir>/src"],
  testMatch: ["**/*.test.ts"],
  transform: {
    "^.+\\.tsx?$": ["@swc/jest", { jsc: { target: "es2022", parser: { syntax: "typescript", tsx: true } } }],
  },
  moduleNameMapper: { "^@/(.*)$": "<rootDir>/src/$1" },
};
