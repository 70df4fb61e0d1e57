import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // The editor of texts is the one large part; it is loaded by its own screen only.
  build: { target: "es2023", chunkSizeWarningLimit: 700 },
  server: {
    proxy: { "/api": "http://127.0.0.1:8080", "/blog": "http://127.0.0.1:8080" },
  },
});
