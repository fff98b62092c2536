// The "never" rules of the house, one entry each. See docs/decisions/rooms.md.
const rule = (name, comment, from, to) => ({ name, severity: "error", comment, from, to });
module.exports = {
  forbidden: [
    rule(
      "core-is-pure",
      "core knows no other room",
      { path: "^core/src" },
      { path: "^(simulator|contract|server|web|cli|library)/" },
    ),
    rule(
      "core-small-libraries",
      "core may use only small numeric libraries and zod",
      { path: "^core/src", pathNot: "\\.test\\.ts$" },
      {
        path: "node_modules",
        pathNot:
          "node_modules/(papaparse|fflate|@types/papaparse|fft\\.js|simple-statistics|culori|@types/culori|zod)/",
      },
    ),
    rule(
      "core-no-node",
      "core has no Node, no clock, no file",
      { path: "^core/src", pathNot: "(\\.test\\.ts$|/testing/)" },
      { dependencyTypes: ["core"] },
    ),
    rule(
      "simulator-sees-unit-quantity-and-chance-only",
      "the forger shares the unit model with the judge, nothing else",
      { path: "^simulator/src", pathNot: "\\.test\\.ts$" },
      { path: "^core/src", pathNot: "^core/src/(unit|quantity|chance)/" },
    ),
    rule(
      "simulator-no-rooms",
      "the simulator is pure",
      { path: "^simulator/src" },
      { path: "^(contract|server|web|cli)/" },
    ),
    rule(
      "contract-core-types-only",
      "contract may use core only",
      { path: "^contract/src" },
      { path: "^(simulator|server|web|cli)/" },
    ),
    rule(
      "web-no-server",
      "the interface talks to the server through the contract",
      { path: "^web/src" },
      { path: "^(server|simulator|cli)/" },
    ),
    rule(
      "evaluation-sees-core-and-simulator",
      "the examiner knows the judge and the forger, nothing else",
      { path: "^evaluation/src" },
      { path: "^(contract|server|web|cli)/" },
    ),
    rule(
      "link-stands-alone",
      "frames, transport and services know no other room but core",
      { path: "^link/src" },
      { path: "^(simulator|contract|server|web|cli|evaluation)/" },
    ),
    rule("server-no-web", "the server knows no interface", { path: "^server/src" }, { path: "^(web|cli)/" }),
    rule("cli-no-server", "the command line needs no server", { path: "^cli/src" }, { path: "^(web|server)/" }),
    rule(
      "one-door",
      "outside a core folder only its index.ts is used",
      { path: "^(core/src/([^/]+)/|simulator|contract|link|server|web|cli|evaluation)", pathNot: "/testing/" },
      { path: "^core/src/([^/]+)/(?!index\\.ts$)", pathNot: ["^core/src/$2/", "/testing/"] },
    ),
    rule(
      "stores-behind-the-scope",
      "only the scope and the database room touch Knex tables; the queue has tables and a connection of its own, a backup is of all of them",
      {
        path: "^server/src",
        pathNot: "^server/src/(db|backup|main|prepare|queue|accounts|app|demo|testing|logs/renew)",
      },
      { path: "node_modules/(knex|pg)/" },
    ),
    rule("no-circular", "no loops", {}, { circular: true }),
    rule("resolvable", "every import resolves", {}, { couldNotResolve: true }),
  ],
  options: {
    tsPreCompilationDeps: true,
    doNotFollow: { path: "node_modules" },
    exclude: { path: "(^|/)dist/" },
    enhancedResolveOptions: {
      exportsFields: ["exports"],
      conditionNames: ["gearsense-source", "import", "require", "node", "default", "types"],
      extensions: [".ts", ".tsx", ".js", ".mjs", ".json", ".css"],
    },
  },
};
