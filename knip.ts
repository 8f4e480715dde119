import type { KnipConfig } from "knip";
import { PROGRAMS } from "./scripts/lib/programs.mjs";

/** What is used from outside: programs, scripts, and what Next.js finds by its place. */
const config: KnipConfig = {
  entry: ["scripts/*.mjs", "scripts/lib/cluster.mjs", ...PROGRAMS.map(({ source }) => source)],
  project: ["src/**/*.{ts,tsx}", "scripts/**/*.mjs", "tests/**/*.ts"],
  ignoreBinaries: ["systemd-analyze"],
  ignoreDependencies: [
    "dependency-cruiser",
    "tailwindcss",
    "daisyui",
    "@fontsource-variable/archivo",
    "@fontsource-variable/spline-sans-mono",
  ],
  ignoreExportsUsedInFile: true,
};

export default config;
