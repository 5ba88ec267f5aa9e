// Compresses the built assets once, so that the server never has to, and weighs the script that the first screen waits for: what
// index.html itself names. What single screens load later is told beside it.
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";

const dist = new URL("../dist/", import.meta.url).pathname;
const page = readFileSync(join(dist, "index.html"), "utf8");
let first = 0;
let later = 0;
for (const name of readdirSync(join(dist, "assets"))) {
  if (!/\.(js|css)$/.test(name)) continue;
  const packed = gzipSync(readFileSync(join(dist, "assets", name)), { level: 9 });
  writeFileSync(join(dist, "assets", `${name}.gz`), packed);
  if (!name.endsWith(".js")) continue;
  if (page.includes(name)) first += packed.length;
  else later += packed.length;
}
console.log(
  `script gzipped: ${(first / 1000).toFixed(1)} kB for the first screen, ${(later / 1000).toFixed(1)} kB for screens that load their own`,
);
if (first === 0 || first > 250_000) {
  console.error("the script of the first screen must stay under 250 kB gzipped");
  process.exit(1);
}
