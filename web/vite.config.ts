import { appendFileSync, readFileSync } from "node:fs";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

const NOTICES = "third-party.md";

/** The notices are made of what scripts import; what only styles import is added to them. */
function noticesOfStyles(...packages: string[]): Plugin {
  return {
    name: "notices-of-styles",
    apply: "build",
    writeBundle({ dir }) {
      for (const name of packages) {
        const { version, license } = JSON.parse(readFileSync(`node_modules/${name}/package.json`, "utf8"));
        const text = readFileSync(`node_modules/${name}/LICENSE`, "utf8");
        appendFileSync(`${dir}/${NOTICES}`, `\n## ${name} - ${version} (${license})\n\n${text}`);
      }
    },
  };
}

export default defineConfig({
  base: "/static/",
  plugins: [react(), noticesOfStyles("bootstrap")],
  build: {
    outDir: "dist",
    manifest: "manifest.json",
    license: { fileName: NOTICES },
    assetsInlineLimit: 1024,
    chunkSizeWarningLimit: 1000,
  },
  css: {
    preprocessorOptions: {
      scss: { quietDeps: true, silenceDeprecations: ["import", "global-builtin", "color-functions", "if-function"] },
    },
  },
});
