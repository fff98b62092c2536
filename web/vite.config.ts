import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defaultClientConditions, defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { conditions: ["gearsense-source", ...defaultClientConditions] },
  worker: { format: "es" },
  build: { chunkSizeWarningLimit: 700 },
  server: {
    host: "127.0.0.1",
    strictPort: true,
    // the host stays as the page has it: the server takes writes of its own address only
    proxy: { "/api": { target: "http://127.0.0.1:4100", changeOrigin: false } },
  },
});
