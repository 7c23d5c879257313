import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { outDir: "../src/adhaero/webroot", emptyOutDir: true, target: "es2022", assetsInlineLimit: 0 },
  server: { port: 5173, proxy: { "/api": { target: "http://127.0.0.1:8137", changeOrigin: false } } },
});
