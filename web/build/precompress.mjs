// Compresses the built assets once, so that the server never has to.
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";

const dir = new URL("../dist/assets", import.meta.url).pathname;
let script = 0;
for (const name of readdirSync(dir)) {
  if (!/\.(js|css)$/.test(name)) continue;
  const packed = gzipSync(readFileSync(join(dir, name)), { level: 9 });
  writeFileSync(join(dir, `${name}.gz`), packed);
  if (name.endsWith(".js")) script += packed.length;
}
console.log(`script gzipped: ${(script / 1000).toFixed(1)} kB`);
if (script > 250_000) {
  console.error("the script of the first screen must stay under 250 kB gzipped");
  process.exit(1);
}
