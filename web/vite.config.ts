import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// `make dev` serves the front end here and passes the rest on to a server started beside it.
const server = process.env.PERIGYRE_SERVER ?? "http://127.0.0.1:7741";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { outDir: "dist", assetsInlineLimit: 0, emptyOutDir: true, chunkSizeWarningLimit: 2000 },
  server: { proxy: { "/api": { target: server, changeOrigin: true, headers: { origin: server } } } },
});
