import type { NextConfig } from "next";

const config: NextConfig = {
  // Each call of the API is a program of its own, which would hold a copy of all that it imports.
  serverExternalPackages: [
    "@jridgewell/trace-mapping",
    "@zxcvbn-ts/language-common",
    "better-auth",
    "drizzle-orm",
    "nodemailer",
    "pg",
    "pg-copy-streams",
    "pino",
    "piscina",
    "re2js",
    "zod",
  ],
  devIndicators: false,
  poweredByHeader: false,
  typescript: { ignoreBuildErrors: true },
  // The first build of a checkout writes no cache of itself: that takes a sixth of its time, and often it stays the only one.
  experimental: { turbopackFileSystemCacheForBuild: process.env.TIN_BUILT_BEFORE === "yes" },
};

export default config;
