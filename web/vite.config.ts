import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
  build: {
    // Drawing in space comes when somebody looks at it.
    chunkSizeWarningLimit: 640,
    assetsInlineLimit: 0,
    rolldownOptions: {
      // A room's script carries the room's name.
      output: {
        chunkFileNames: (chunk) => {
          const room = /rooms\/(\w+)\/pages\.ts$/.exec(chunk.facadeModuleId ?? "");
          return room ? `assets/${room[1]}-[hash].js` : "assets/[name]-[hash].js";
        },
      },
    },
  },
  // scripts/dev says where the server is.
  server: { proxy: { "/api": { target: process.env["JUXTA_DEV_SERVER"] ?? "http://127.0.0.1:8080", changeOrigin: false } } },
});
