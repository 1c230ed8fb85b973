// Builds the web application into the Python package, which serves it.
import react from "@vitejs/plugin-react";
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { defineConfig, type Plugin } from "vite";

const OUT = "../src/sphagnum/web_dist";

// Text assets are compressed once here, not at every request.
const compressed = (): Plugin => ({
  name: "compressed",
  closeBundle() {
    const folder = join(import.meta.dirname, OUT, "assets");
    for (const name of readdirSync(folder).filter((n) => /\.(js|css)$/.test(n)))
      writeFileSync(join(folder, `${name}.gz`), gzipSync(readFileSync(join(folder, name)), { level: 9 }));
  },
});

export default defineConfig({
  plugins: [react(), compressed()],
  css: { modules: { localsConvention: "camelCaseOnly" } },
  build: { outDir: OUT, emptyOutDir: true, target: "es2022", assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8484" } },
});
