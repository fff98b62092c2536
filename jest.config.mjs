const transform = {
  "^.+\\.tsx?$": [
    "@swc/jest",
    {
      jsc: { target: "es2022", parser: { syntax: "typescript", tsx: false } },
      module: { type: "es6" },
      sourceMaps: "inline",
    },
  ],
};
const room = (displayName) => ({
  displayName,
  rootDir: displayName,
  testMatch: ["<rootDir>/src/**/*.test.ts"],
  testEnvironmentOptions: { customExportConditions: ["gearsense-source", "node", "node-addons"] },
  extensionsToTreatAsEsm: [".ts"],
  transform,
});
export default { projects: ["core", "simulator", "contract", "server", "web", "cli"].map(room) };
