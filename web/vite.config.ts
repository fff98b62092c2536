import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defaultClientConditions, defineConfig } from "vite";

const CHARTS = /node_modules\/(recharts|victory-vendor|immer|@reduxjs|redux|react-redux|reselect|es-toolkit|decimal)/;

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { conditions: ["gearsense-source", ...defaultClientConditions] },
  worker: { format: "es" },
  build: {
    chunkSizeWarningLimit: 700,
    rolldownOptions: {
      output: {
        // what most pages use comes in a few files: every request of its own costs more than its bytes
        codeSplitting: {
          groups: [
            {
              name: "react",
              test: /node_modules\/(react|react-dom|react-is|scheduler|use-sync-external-store|clsx)\//,
            },
            { name: "icons", test: /node_modules\/lucide-react/ },
            { name: "scales", test: /node_modules\/(d3-|internmap)/ },
            { name: "dates", test: /node_modules\/date-fns/ },
            // charts come with what draws one
            { name: "charts", test: CHARTS },
            { name: "shared", minShareCount: 6 },
          ],
        },
      },
    },
  },
  server: {
    host: "127.0.0.1",
    strictPort: true,
    // the host stays as the page has it: the server takes writes of its own address only
    proxy: { "/api": { target: "http://127.0.0.1:4100", changeOrigin: false } },
  },
});
