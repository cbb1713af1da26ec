import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, gzipSync } from "node:zlib";

import react from "@vitejs/plugin-react";
import type { Plugin, Rolldown } from "vite";
import { VitePWA } from "vite-plugin-pwa";
import { defineConfig } from "vitest/config";

import { ADDRESSES } from "./src/app/addresses";

/** What a page may load before it is seen, by brotli; the bench has less of a line. */
const MOST_KB = 250;
const MOST_AT_THE_BENCH_KB = 180;
const BENCH = ["PourPage", "TodayBenchPage"];

const PACKAGES = /node_modules\/(?!(three|@react-three)\/)/;
const FIELDS = /node_modules\/(?!(three|@react-three)\/)|src\/shared/;

type Bundle = Record<string, Rolldown.OutputAsset | Rolldown.OutputChunk>;

/** A script and all that it cannot run without. */
function needed(bundle: Bundle, name: string, found = new Set<string>()): Set<string> {
  const part = bundle[name];
  if (part?.type !== "chunk" || found.has(name)) return found;
  found.add(name);
  for (const one of part.imports) needed(bundle, one, found);
  return found;
}

function pageOf(chunk: Rolldown.OutputChunk): string | undefined {
  return /\/(\w+Page)\.tsx$/.exec(chunk.facadeModuleId ?? "")?.[1];
}

/** Fails the build where a page needs more scripts and styles than it may. */
function budget(): Plugin {
  return {
    name: "budget",
    generateBundle(_, bundle) {
      const sizes = new Map<string, number>();
      for (const [name, part] of Object.entries(bundle)) {
        const content = part.type === "chunk" ? part.code : part.source;
        if (/\.(js|css)$/.test(name)) sizes.set(name, brotliCompressSync(content).length / 1e3);
      }
      const chunks = Object.values(bundle).filter((part) => part.type === "chunk");
      const styles = [...sizes.keys()].filter((name) => name.endsWith(".css"));
      const [first] = chunks.filter((one) => one.isEntry);
      const told: [string, number, number][] = [];
      for (const chunk of chunks) {
        const page = pageOf(chunk);
        if (!page || !first) continue;
        const files = [
          ...needed(bundle, chunk.fileName, needed(bundle, first.fileName)),
          ...styles,
        ];
        const whole = files.reduce((sum, name) => sum + (sizes.get(name) ?? 0), 0);
        told.push([page, whole, files.length]);
        const most = BENCH.includes(page) ? MOST_AT_THE_BENCH_KB : MOST_KB;
        if (whole > most) {
          this.error(`${page} loads ${whole.toFixed(0)} kB compressed; it may load ${most} kB.`);
        }
      }
      told.sort(([, one], [, other]) => other - one);
      const [page, whole, files] = told[0] ?? ["no page", 0, 0];
      this.info(`at most ${whole.toFixed(0)} kB compressed in ${files} files: ${page}`);
    },
  };
}

/** Writes which files an address needs beside the first, and what its page asks for. */
function addresses(): Plugin {
  return {
    name: "addresses",
    generateBundle(_, bundle) {
      const chunks = Object.values(bundle).filter((part) => part.type === "chunk");
      const first = chunks.find((one) => one.isEntry)?.fileName ?? "";
      const have = needed(bundle, first);
      const told = ADDRESSES.map(({ path, page, ...more }) => {
        const chunk = chunks.find((one) => one.exports.includes(page) && pageOf(one));
        if (!chunk) return this.error(`There is no page ${page} for /${path}.`);
        const files = [...needed(bundle, chunk.fileName)].filter((name) => !have.has(name));
        return { path, files, asks: "asks" in more ? more.asks : [] };
      });
      const source = JSON.stringify(told, null, 1);
      this.emitFile({ type: "asset", fileName: "addresses.json", source });
    },
  };
}

/** Compresses once what is served often: by brotli for a browser that reads it, else by gzip. */
function compressed(): Plugin {
  return {
    name: "compressed",
    writeBundle({ dir = "" }, bundle) {
      for (const [name, part] of Object.entries(bundle)) {
        if (!/\.(js|css|svg)$/.test(name)) continue;
        const content = part.type === "chunk" ? part.code : part.source;
        writeFileSync(join(dir, `${name}.br`), brotliCompressSync(content));
        writeFileSync(join(dir, `${name}.gz`), gzipSync(content));
      }
    },
  };
}

export default defineConfig({
  plugins: [
    react(),
    budget(),
    addresses(),
    compressed(),
    // The bench opens without the server: what was built is kept by the browser after one visit.
    VitePWA({
      injectRegister: null,
      manifest: false,
      workbox: {
        globPatterns: ["assets/**/*.{js,css,woff2}", "*.svg"],
        // What draws in three dimensions is large, and the bench shows none of it.
        globIgnores: ["assets/Stage-*.js"],
        cleanupOutdatedCaches: true,
        navigateFallback: null,
        runtimeCaching: [
          {
            // The page itself comes from the server while that answers, so it is never an old one.
            urlPattern: ({ request }) => request.mode === "navigate",
            handler: "NetworkFirst",
            options: {
              cacheName: "page",
              networkTimeoutSeconds: 3,
              plugins: [{ cacheKeyWillBeUsed: () => Promise.resolve("/index.html") }],
            },
          },
        ],
      },
    }),
  ],
  // The server puts the number of its answer here; only what bears it may write styles.
  html: { cspNonce: "__NONCE__" },
  server: { proxy: { "/api": "http://127.0.0.1:8410" } },
  test: { setupFiles: ["src/testing/server.ts"] },
  build: {
    chunkSizeWarningLimit: 1400,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            // What every page stands on changes seldom and comes as one.
            {
              name: "base",
              test: /node_modules\/(react|react-dom|react-router|scheduler|@tanstack)\//,
            },
            // What nearly every page shares is one request; fields and choices are another,
            // which the bench does without.
            { name: "kit", test: PACKAGES, minShareCount: 34 },
            {
              name: "shared",
              test: /src\/(api|shared)\/(?!Gallery|Quantity|Search)/,
              minShareCount: 2,
            },
            // What features ask the server for is small: one file, not one each.
            { name: "queries", test: /src\/features\/(?!pour)\w+\/queries\.ts/, minShareCount: 2 },
            { name: "fields", test: FIELDS, minShareCount: 9 },
          ],
        },
      },
    },
  },
});
