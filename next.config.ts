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
};

export default config;
