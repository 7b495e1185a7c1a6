import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    // Press mode opens again with the network cut: src/sw.ts says what is kept for that.
    VitePWA({
      strategies: "injectManifest",
      srcDir: "src",
      filename: "sw.ts",
      injectRegister: false,
      manifest: false,
      injectManifest: { globPatterns: ["assets/*.{js,css,woff2}", "*.svg"], maximumFileSizeToCacheInBytes: 8_000_000 },
    }),
  ],
  // A strict content policy: nothing inlined, no helper script of the bundler's own.
  build: { assetsInlineLimit: 0, modulePreload: { polyfill: false }, target: "es2022" },
  server: { proxy: { "/api": "http://127.0.0.1:8040" } },
});
