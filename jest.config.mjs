const transform = { "^.+\\.tsx?$": "<rootDir>/../scripts/jest-transform.mjs" };
const room = (displayName) => ({
  displayName,
  rootDir: displayName,
  testMatch: ["<rootDir>/src/**/*.test.ts"],
  testEnvironmentOptions: { customExportConditions: ["gearsense-source", "node", "node-addons"] },
  extensionsToTreatAsEsm: [".ts"],
  transform,
});
export default { projects: ["core", "simulator", "contract", "server", "web", "cli"].map(room) };
