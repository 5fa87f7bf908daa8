// Builds web/static from the sources: Tailwind's CSS, and the libraries and fonts copied as they are.
import { execFileSync } from "node:child_process";
import { copyFileSync, mkdirSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const here = dirname(fileURLToPath(import.meta.url));
const out = process.argv[2] ?? join(here, "../src/waldhorn/web/static");
const modules = join(here, "node_modules");

const copies = {
  "htmx.org/dist/htmx.min.js": "vendor/htmx.min.js",
  "jsqr/dist/jsQR.js": "vendor/jsqr.js",
  "uplot/dist/uPlot.iife.min.js": "vendor/uplot.min.js",
  "@alpinejs/csp/dist/cdn.min.js": "vendor/alpine-csp.min.js",
  "@fontsource/b612/files/b612-latin-400-normal.woff2": "fonts/b612-400.woff2",
  "@fontsource/b612/files/b612-latin-700-normal.woff2": "fonts/b612-700.woff2",
  "@fontsource/b612-mono/files/b612-mono-latin-400-normal.woff2": "fonts/b612-mono-400.woff2",
  "@fontsource/b612-mono/files/b612-mono-latin-700-normal.woff2": "fonts/b612-mono-700.woff2",
};
// Whoever is given these is given their terms. Alpine's package comes without its own.
const licenses = {
  "htmx.org/LICENSE": "htmx.txt",
  "jsqr/LICENSE": "jsqr.txt",
  "uplot/LICENSE": "uplot.txt",
  "tailwindcss/LICENSE": "tailwind.txt",
  "@fontsource/b612/LICENSE": "b612.txt",
  "@fontsource/b612-mono/LICENSE": "b612-mono.txt",
};
for (const [from, to] of Object.entries(licenses)) copies[from] = `licenses/${to}`;
copies["../licenses/alpine.txt"] = "licenses/alpine.txt";
for (const folder of ["vendor", "fonts", "licenses"]) mkdirSync(join(out, folder), { recursive: true });
for (const [from, to] of Object.entries(copies)) copyFileSync(join(modules, from), join(out, to));

const tailwind = join(modules, "@tailwindcss/cli/dist/index.mjs");
execFileSync(
  process.execPath,
  [tailwind, "-i", join(here, "waldhorn.css"), "-o", join(out, "waldhorn.css"), "--minify"],
  {
    stdio: ["ignore", "inherit", "inherit"],
  },
);
