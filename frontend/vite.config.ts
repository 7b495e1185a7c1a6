import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // A strict content policy: nothing inlined, no helper script of the bundler's own.
  build: { assetsInlineLimit: 0, modulePreload: { polyfill: false }, target: "es2022" },
  server: { proxy: { "/api": "http://127.0.0.1:8040" } },
});
