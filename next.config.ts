import type { NextConfig } from "next";

const config: NextConfig = {
  serverExternalPackages: ["piscina", "pg", "pg-copy-streams"],
  devIndicators: false,
  poweredByHeader: false,
  typescript: { ignoreBuildErrors: true },
};

export default config;
