import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, gzipSync } from "node:zlib";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

const OUT = "../lucernis/web";

// What is built once is compressed once, as hard as it goes; the server picks what a browser understands.
function compressed(): Plugin {
  return {
    name: "compressed",
    apply: "build",
    closeBundle(failed?: Error) {
      if (failed !== undefined) return;
      const folder = join(import.meta.dirname, OUT, "assets");
      for (const name of readdirSync(folder).filter((one) => /\.(js|css)$/.test(one))) {
        const body = readFileSync(join(folder, name));
        writeFileSync(join(folder, `${name}.br`), brotliCompressSync(body));
        writeFileSync(join(folder, `${name}.gz`), gzipSync(body, { level: 9 }));
      }
    },
  };
}

// The worker that keeps the page has to know every file of it; a new build makes it another one, and the old one leaves.
function shell(): Plugin {
  return {
    name: "shell",
    apply: "build",
    closeBundle(failed?: Error) {
      // What went wrong is told, and not that nothing was written.
      if (failed !== undefined) return;
      const names = readdirSync(join(import.meta.dirname, OUT, "assets")).filter((one) => !/\.(br|gz)$/.test(one));
      const path = join(import.meta.dirname, OUT, "sw.js");
      const files = JSON.stringify(names.sort().map((one) => `/assets/${one}`));
      writeFileSync(path, readFileSync(path, "utf8").replace(/const FILES = .*;/, `const FILES = ${files};`));
    },
  };
}

export default defineConfig({
  plugins: [react(), tailwindcss(), shell(), compressed()],
  // Every browser that reads es2023 preloads modules by itself: no polyfill.
  build: { target: "es2023", outDir: OUT, emptyOutDir: true, chunkSizeWarningLimit: 900, assetsInlineLimit: 0, modulePreload: { polyfill: false } },
  server: { proxy: { "/api": "http://127.0.0.1:8765" } },
});
