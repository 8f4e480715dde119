/** Imports point one way: app, ui → engine → store → core; watch → engine; intake → store → core; demo is only a client. */
const onlyTo = (from, allowed) => ({
  name: `${from}-imports`,
  severity: "error",
  from: { path: `^src/${from}/`, pathNot: "\\.test\\.tsx?$" },
  to: { path: "^src/", pathNot: allowed.map((folder) => `^src/${folder}/`) },
});

module.exports = {
  forbidden: [
    { name: "no-cycles", severity: "error", from: {}, to: { circular: true } },
    onlyTo("core", ["core"]),
    onlyTo("store", ["store", "core"]),
    onlyTo("engine", ["engine", "store", "core"]),
    onlyTo("intake", ["intake", "store", "core"]),
    onlyTo("watch", ["watch", "engine", "store", "core"]),
    onlyTo("access", ["access", "store", "core"]),
    onlyTo("web", ["web", "access", "store", "core"]),
    onlyTo("ui", ["ui", "core"]),
    onlyTo("cli", ["cli", "core"]),
    { name: "nobody-imports-demo", severity: "error", from: { pathNot: "^src/demo/" }, to: { path: "^src/demo/" } },
    { name: "nobody-imports-app", severity: "error", from: { pathNot: "^src/app/" }, to: { path: "^src/app/" } },
    {
      name: "pages-share-only-shared-rooms",
      severity: "error",
      // What two pages share goes into one of these rooms. The first run shows what "add a source" shows.
      from: { path: "^src/ui/([^/]+)/", pathNot: "^src/ui/(start|frame)/" },
      to: { path: "^src/ui/", pathNot: "^src/ui/($1|chart|frame|query|sentence)/" },
    },
    {
      name: "shared-rooms-know-no-page",
      severity: "error",
      from: { path: "^src/ui/(chart|query|sentence)/" },
      to: { path: "^src/ui/", pathNot: "^src/ui/(chart|frame|query|sentence)/" },
    },
    {
      name: "core-is-pure",
      severity: "error",
      from: { path: "^src/core/", pathNot: "(\\.test\\.ts$|/testing/)" },
      to: { path: "^node:|^(fs|http|net|path)$|node_modules/(react|next|pg|drizzle-orm)/" },
    },
    {
      name: "testing-helpers-stay-in-tests",
      severity: "error",
      from: { path: "^src/", pathNot: "(\\.test\\.ts$|/testing/)" },
      to: { path: "/testing/" },
    },
  ],
  options: {
    doNotFollow: { path: "node_modules" },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: "tsconfig.json" },
    enhancedResolveOptions: { extensions: [".ts", ".tsx", ".js", ".mjs"] },
  },
};
