import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// Nothing is inlined, so that the content security policy needs no exception.
export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { assetsInlineLimit: 0, modulePreload: { polyfill: false }, chunkSizeWarningLimit: 900 },
  server: { proxy: { "/api": "http://127.0.0.1:7340" } },
});
