// Fetches nothing by itself: `./build` has done that. Copies what the browser loads into crates/web/assets and builds
// the style sheet. `node build.mjs --check` only says whether what is committed is current.
import { execFileSync } from "node:child_process";
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join, relative } from "node:path";
import { fileURLToPath } from "node:url";
import subsetFont from "subset-font";
import wawoff from "wawoff2";

const here = dirname(fileURLToPath(import.meta.url));
const root = dirname(here);
const modules = join(here, "node_modules");
const target = join(root, "crates/web/assets");

/** @param {string} family @param {string} file */
const font = (family, file) => join(modules, "@fontsource", family, "files", `${file}.woff2`);

const FONTS = [
  font("barlow", "barlow-latin-400-normal"),
  font("barlow", "barlow-latin-400-italic"),
  font("barlow", "barlow-latin-500-normal"),
  font("barlow", "barlow-latin-600-normal"),
  font("barlow-condensed", "barlow-condensed-latin-500-normal"),
  font("barlow-condensed", "barlow-condensed-latin-600-normal"),
  font("ibm-plex-mono", "ibm-plex-mono-latin-400-normal"),
  font("ibm-plex-mono", "ibm-plex-mono-latin-500-normal"),
];
// Of the font for formulas the browser gets what formulas of mechanics need: the whole is larger than everything else together.
const MATHS = font("noto-sans-math", "noto-sans-math-latin-400-normal");
/** Characters from one code point to another. @param {number} from @param {number} to */
const range = (from, to) => Array.from({ length: to - from + 1 }, (_, i) => String.fromCodePoint(from + i)).join("");
const FORMULAS = [
  range(0x20, 0x7e),
  "\u00a0\u00b0\u00b1\u00b2\u00b3\u00b7\u00d7\u00f7\u2026\u2032\u2033\u2044\u210e",
  range(0x391, 0x3f6),
  range(0x2070, 0x209c),
  range(0x2190, 0x2194),
  range(0x2200, 0x22ff),
  "\u2308\u2309\u230a\u230b\u27e8\u27e9",
  range(0x1d434, 0x1d467),
  range(0x1d6e2, 0x1d71b),
].join("");
// The graph's picture is drawn on the server, where fonts have to be TrueType.
const DRAWN = [...FONTS, MATHS].filter((f) => /barlow-latin-(400|500)|plex-mono-latin-400|sans-math/.test(f));

/** Builds everything into a folder. @param {string} out */
async function build(out) {
  mkdirSync(join(out, "fonts"), { recursive: true });
  mkdirSync(join(out, "vendor"), { recursive: true });
  for (const file of FONTS) cpSync(file, join(out, "fonts", file.split("/").pop()));
  writeFileSync(join(out, "fonts/noto-sans-math-formulas.woff2"), await subsetFont(readFileSync(MATHS), FORMULAS, { targetFormat: "woff2" }));
  for (const file of DRAWN) {
    const name = file.split("/").pop().replace("woff2", "ttf");
    writeFileSync(join(out, "fonts", name), await wawoff.decompress(readFileSync(file)));
  }
  cpSync(join(modules, "htmx.org/dist/htmx.min.js"), join(out, "vendor/htmx.min.js"));
  cpSync(join(modules, "htmx-ext-sse/dist/sse.min.js"), join(out, "vendor/htmx-ext-sse.min.js"));
  cpSync(join(modules, "idiomorph/dist/idiomorph.min.js"), join(out, "vendor/idiomorph.min.js"));
  cpSync(join(modules, "idiomorph/dist/idiomorph-htmx.js"), join(out, "vendor/idiomorph-htmx.js"));
  cpSync(join(modules, "mediabunny/dist/bundles/mediabunny.min.mjs"), join(out, "vendor/mediabunny.min.mjs"));
  execFileSync(
    join(modules, ".bin/tailwindcss"),
    ["-i", join(here, "styles/zeitmass.css"), "-o", join(out, "app.css"), "--minify"],
    { cwd: here, stdio: ["ignore", "ignore", "pipe"] },
  );
}

/** All files below a folder, relative to it. @param {string} folder @returns {string[]} */
const below = (folder) =>
  readdirSync(folder, { recursive: true }).map(String).filter((f) => statSync(join(folder, f)).isFile());

if (process.argv.includes("--check")) {
  const fresh = mkdtempSync(join(tmpdir(), "zeitmass-assets-"));
  await build(fresh);
  const stale = below(fresh).filter((f) => {
    const committed = join(target, f);
    return !existsSync(committed) || !readFileSync(join(fresh, f)).equals(readFileSync(committed));
  });
  rmSync(fresh, { recursive: true });
  if (stale.length > 0) {
    console.error(`Not current in ${relative(root, target)}: ${stale.join(", ")}. Run ./assets/build and commit.`);
    process.exit(1);
  }
  console.log("What the browser loads is current.");
} else {
  await build(target);
  mkdirSync(join(root, "crates/e2e/vendor"), { recursive: true });
  cpSync(join(modules, "axe-core/axe.min.js"), join(root, "crates/e2e/vendor/axe.min.js"));
}
