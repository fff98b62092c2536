const transform = { "^.+\\.tsx?$": new URL("scripts/jest-transform.mjs", import.meta.url).pathname };
const room = (displayName) => ({
  displayName,
  rootDir: displayName,
  testMatch: ["<rootDir>/src/**/*.test.ts", "<rootDir>/src/**/*.test.tsx"],
  testEnvironmentOptions: { customExportConditions: ["gearsense-source", "node", "node-addons"] },
  extensionsToTreatAsEsm: [".ts", ".tsx"],
  transform,
});
// logs are made within tests: on a busy machine that takes its time, and the limit only ends what hangs
export default {
  testTimeout: 300_000,
  // by default one core is left idle: on two that doubles the time
  maxWorkers: "100%",
  projects: ["core", "simulator", "contract", "link", "server", "web", "cli", "evaluation"].map(room),
};
