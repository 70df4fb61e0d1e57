import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // The editor of texts is the one large part; it is loaded by its own screen only.
  build: { target: "es2023", chunkSizeWarningLimit: 700 },
  test: { environment: "jsdom", include: ["src/**/*.test.{ts,tsx}"], setupFiles: "src/test.ts" },
  server: {
    proxy: { "/api": "http://127.0.0.1:8080", "/blog": "http://127.0.0.1:8080" },
  },
});
