import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  base: "/static/",
  plugins: [react()],
  build: { outDir: "dist", manifest: "manifest.json", license: { fileName: "third-party.md" }, assetsInlineLimit: 1024, chunkSizeWarningLimit: 700 },
  css: {
    preprocessorOptions: {
      scss: { quietDeps: true, silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"] },
    },
  },
});
