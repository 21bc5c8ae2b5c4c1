/** The arrows between the areas point one way: web, cli, worker → server → core. */
module.exports = {
  forbidden: [
    {
      name: "core-imports-no-other-area",
      severity: "error",
      from: { path: "^core/", pathNot: "\\.test\\.ts$" },
      to: { path: "^(server|cli|web|worker|demo|e2e|bench)/" },
    },
    {
      name: "core-is-not-only-for-node",
      severity: "error",
      from: { path: "^core/", pathNot: "\\.test\\.ts$" },
      to: { dependencyTypes: ["core"] },
    },
    {
      name: "server-imports-core-only",
      severity: "error",
      from: { path: "^server/", pathNot: "\\.test\\.ts$" },
      to: { path: "^(cli|web|worker|demo|e2e|bench)/" },
    },
    {
      name: "demo-imports-core-only",
      severity: "error",
      from: { path: "^demo/", pathNot: "\\.test\\.ts$" },
      to: { path: "^(server|cli|web|worker|e2e|bench)/" },
    },
    {
      name: "worker-imports-server-and-core",
      severity: "error",
      from: { path: "^worker/" },
      to: { path: "^(cli|web|demo|e2e|bench)/" },
    },
    {
      name: "web-imports-no-command",
      severity: "error",
      from: { path: "^web/" },
      to: { path: "^(cli|worker|demo|e2e|bench)/" },
    },
    {
      name: "browser-code-imports-core-and-ui",
      comment: "types of the server may be named, its code not run",
      severity: "error",
      from: { path: "^web/(features|ui)/" },
      to: { path: "^server/", dependencyTypesNot: ["type-only"] },
    },
    {
      name: "routes-call-services",
      comment: "what a route reaches has asked what its actor may do; health says whether the database answers",
      severity: "error",
      from: { path: "^web/(app|edge)/", pathNot: "^web/app/api/health/" },
      to: { path: "^server/(db|jobs|blobs|pixels|snapshot)/", dependencyTypesNot: ["type-only"] },
    },
    {
      name: "no-circles",
      comment: "What only types go round by does not exist when it runs.",
      severity: "error",
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ["type-only"] } },
    },
  ],
  options: {
    doNotFollow: { path: "node_modules" },
    exclude: { path: "(\\.next|node_modules/(?!@larder))" },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: "tsconfig.json" },
    enhancedResolveOptions: {
      exportsFields: ["exports"],
      conditionNames: ["import", "default"],
      extensions: [".ts", ".tsx", ".js", ".mjs"],
    },
  },
};
