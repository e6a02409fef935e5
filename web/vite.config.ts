import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: {
    outDir: "dist",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    rollupOptions: {
      input: { index: "index.html", offline: "worker/offline.ts" },
      // The worker's address stays: the browser asks there whether it has changed.
      output: { entryFileNames: (c) => (c.name === "offline" ? "offline.js" : "assets/[name]-[hash].js") },
    },
  },
  server: { host: "127.0.0.1", proxy: { "/api": `http://127.0.0.1:${process.env.PORT ?? 8080}` } },
});
