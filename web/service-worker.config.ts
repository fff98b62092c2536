import { createHash } from "node:crypto";
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { defaultClientConditions, defineConfig } from "vite";

const dist = join(import.meta.dirname, "dist");

/** Every file of the built application; those in assets carry a hash in their name. */
const filesOf = () =>
  readdirSync(dist, { recursive: true, withFileTypes: true })
    .filter((f) => f.isFile() && !f.name.startsWith(".") && f.name !== "sw.js")
    .map((f) => {
      const path = join(f.parentPath, f.name);
      const url = path.slice(dist.length).replaceAll("\\", "/");
      const hash = () => createHash("sha256").update(readFileSync(path)).digest("hex");
      return { url, revision: url.startsWith("/assets/") ? null : hash() };
    });

// built after the application, in one file: a service worker without imports runs in every browser
export default defineConfig({
  plugins: [{ name: "files", config: () => ({ define: { __FILES__: JSON.stringify(filesOf()) } }) }],
  resolve: { conditions: ["gearsense-source", ...defaultClientConditions] },
  define: { "process.env.NODE_ENV": '"production"' },
  publicDir: false,
  build: {
    emptyOutDir: false,
    outDir: "dist",
    lib: { entry: "src/offline/service-worker.ts", formats: ["iife"], name: "gearsense", fileName: () => "sw.js" },
  },
});
