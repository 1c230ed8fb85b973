// Builds the web application into the Python package, which serves it.
import react from "@vitejs/plugin-react";
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import { defineConfig, type Plugin } from "vite";
import { VitePWA } from "vite-plugin-pwa";

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

// The shell of the application without a network; nothing of a job is in it.
const offline = VitePWA({
  injectRegister: null,
  registerType: "prompt",
  manifest: {
    name: "Sphagnum",
    short_name: "Sphagnum",
    description: "Sound deadening: measured, planned, fitted, proved.",
    start_url: "/",
    display: "standalone",
    background_color: "#f6f4ec",
    theme_color: "#55732a",
    icons: [192, 512].flatMap((px) => [
      { src: `/icons/${px}.png`, sizes: `${px}x${px}`, type: "image/png", purpose: "any" },
      { src: `/icons/${px}.png`, sizes: `${px}x${px}`, type: "image/png", purpose: "maskable" },
    ]),
  },
  workbox: {
    globPatterns: ["index.html", "mark.svg", "assets/*.{js,css,woff2}"],
    globIgnores: ["**/*.woff"],
    navigateFallback: "/index.html",
    navigateFallbackDenylist: [/^\/api\//, /^\/sign-in/, /^\/ticket/],
    runtimeCaching: [
      {
        urlPattern: ({ url }) => url.pathname.startsWith("/api/pictures/"),
        handler: "CacheFirst",
        options: { cacheName: "pictures", expiration: { maxEntries: 300, purgeOnQuotaError: true } },
      },
    ],
    cleanupOutdatedCaches: true,
    inlineWorkboxRuntime: true,
    sourcemap: false,
  },
});

export default defineConfig({
  plugins: [react(), offline, compressed()],
  css: { modules: { localsConvention: "camelCaseOnly" } },
  build: { outDir: OUT, emptyOutDir: true, target: "es2022", assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:8484" } },
});
