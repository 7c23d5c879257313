import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { VitePWA } from "vite-plugin-pwa";

export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    // What a bench needs to open without the desk: the shipped files, and nothing of the data.
    VitePWA({
      filename: "sw.js",
      injectRegister: false,
      manifest: {
        name: "Adhaero",
        short_name: "Adhaero",
        description: "Plan, make, break and compare glued wood joints",
        display: "standalone",
        background_color: "#f3efe6",
        theme_color: "#f3efe6",
        icons: [{ src: "/icon.svg", sizes: "any", type: "image/svg+xml" }],
      },
      workbox: {
        globPatterns: ["**/*.{js,css,html,svg,woff2}"],
        navigateFallback: null,
        skipWaiting: true,
        clientsClaim: true,
        runtimeCaching: [
          {
            // A page comes from the desk while that answers, so that it is never older than the data.
            urlPattern: ({ request, url }) =>
              request.mode === "navigate" && !url.pathname.startsWith("/api/"),
            handler: "NetworkFirst",
            options: {
              cacheName: "page",
              networkTimeoutSeconds: 5,
              plugins: [{ cacheKeyWillBeUsed: () => Promise.resolve("/index.html") }],
              precacheFallback: { fallbackURL: "/index.html" },
            },
          },
        ],
      },
    }),
  ],
  build: { outDir: "../src/adhaero/webroot", emptyOutDir: true, target: "es2022", assetsInlineLimit: 0 },
  server: { port: 5173, proxy: { "/api": { target: "http://127.0.0.1:8137", changeOrigin: false } } },
});
