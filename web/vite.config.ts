import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import type { Plugin } from "vite";
import { defineConfig } from "vitest/config";

/** Packs what is text beside itself, as small as it gets: the server sends it as it lies there. */
function packed(): Plugin {
  return {
    name: "packed",
    apply: "build",
    writeBundle({ dir = "dist" }) {
      const assets = join(dir, "assets");
      for (const name of readdirSync(assets).filter((n) => /\.(js|css|svg)$/.test(n))) {
        const text = readFileSync(join(assets, name));
        writeFileSync(join(assets, `${name}.gz`), gzipSync(text, { level: 9 }));
        const best = { params: { [constants.BROTLI_PARAM_QUALITY]: constants.BROTLI_MAX_QUALITY } };
        writeFileSync(join(assets, `${name}.br`), brotliCompressSync(text, best));
      }
    },
  };
}

export default defineConfig({
  plugins: [react(), tailwindcss(), packed()],
  build: {
    target: "es2023",
    // The editor of texts is the one large part; it is loaded by its own screen only.
    chunkSizeWarningLimit: 700,
    rolldownOptions: {
      output: {
        codeSplitting: {
          // Every screen needs these, so they come in two pieces and not in sixty.
          groups: [
            {
              name: "frame",
              test: /node_modules\/(react|react-dom|scheduler|react-router|@tanstack\/(query-core|react-query)|openapi-fetch|use-sync-external-store|@headlessui\/react\/dist\/(?!components\/(combobox|listbox-virtual))|@floating-ui|@react-aria\/(focus|interactions)|lucide-react)\//,
              priority: 2,
            },
            {
              name: "common",
              test: /\/src\/(api\/|ui\/(?!MonthPicker|ToastRegion|DateField|TimeField|NumberField|schema|useFormOf|useTyped)|features\/(plan|tape|moving|lenses|blog|session)\/)/,
              priority: 1,
            },
          ],
        },
      },
    },
    // By it the server knows what a screen is made of, and has it fetched with the document.
    manifest: "assets/manifest.json",
  },
  test: {
    environment: "jsdom",
    pool: "threads",
    isolate: false,
    // A busy machine is slow, and that is no fault of what is tested.
    testTimeout: 60_000,
    include: ["src/**/*.test.{ts,tsx}"],
    setupFiles: "src/test.ts",
  },
  server: {
    proxy: { "/api": "http://127.0.0.1:8080", "/blog": "http://127.0.0.1:8080" },
  },
});
