/** No sentence outside the catalogues: what a reader sees comes from src/words, in their language.
 *
 * Text and spoken attributes of the markup may hold no letters at all.  In expressions and scripts a
 * string with a space between letters, or one that begins like a sentence, counts as words; what is
 * compared, named or sent is not.
 */
import fs from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { parse } from "svelte/compiler";

const SRC = path.join(path.dirname(fileURLToPath(import.meta.url)), "..", "src");
const SPOKEN = new Set(["placeholder", "aria-label", "aria-description", "aria-roledescription", "title", "alt", "label"]);
/** Spoken too, where they hold a sentence and not a name from the code. */
const MAY_BE = new Set(["what", "why", "instead", "note", "text"]);
/** The product's own name, and what is written for a machine. */
const PASS =
  /^(Coat Log|UTC|X-CSRFToken|Content-Type|Coat-Kept|Coat-Now|Coat-Unheard|en-CA|timeZone|input, select, textarea)$|^(<|url\(|&|@page|rotate|image\/|translate)/;
/** Names of units, drawings, and what reads a page off itself. */
const FILES = new Set(["lib/units.ts", "lib/svgfile.ts", "lib/pdf.ts", "figures/Patterns.svelte"]);
const LETTERS = /[A-Za-zÀ-ÿ]{2}/;
const SENTENCE = /[A-Za-zÀ-ÿ]{2}[^A-Za-zÀ-ÿ]* [^A-Za-zÀ-ÿ]*[A-Za-zÀ-ÿ]|^[A-Z][a-zà-ÿ]/;
const NOT_SHOWN =
  /^(api\.|document\.|fetch$|matchMedia$|push$|new Intl|navigator\.)|\.(querySelector(All)?|includes|startsWith|endsWith|split|closest|addEventListener|test|find)$/;

const faults = [];

function check(file) {
  const name = path.relative(SRC, file).replaceAll("\\", "/");
  if (FILES.has(name)) return;
  const raw = fs.readFileSync(file, "utf8");
  const source = file.endsWith(".svelte") ? raw : `<script lang="ts">${raw}</script>`;
  const tree = parse(source, { modern: true });
  const told = (node, text) => {
    if (PASS.test(text.trim())) return;
    faults.push(`${name}:${source.slice(0, node.start).split("\n").length}: ${JSON.stringify(text.trim().slice(0, 80))}`);
  };

  function code(node, shown) {
    if (!node || typeof node !== "object") return;
    if (Array.isArray(node)) return node.forEach((n) => code(n, shown));
    if (/^(TS(Type|Interface)|Import|ExportAll)/.test(node.type ?? "")) return;
    if (node.type === "Literal")
      return void (shown && typeof node.value === "string" && SENTENCE.test(node.value) && told(node, node.value));
    if (node.type === "TemplateLiteral") {
      const text = node.quasis.map((q) => q.value.cooked).join("\u0000");
      if (shown && SENTENCE.test(text.replaceAll("\u0000", " 0 ").replace(/\/api\S*|#\/\S*/g, "")))
        told(node, text.replaceAll("\u0000", "…"));
      return node.expressions.forEach((n) => code(n, shown));
    }
    if (node.type === "BinaryExpression" && ["===", "!==", "in"].includes(node.operator)) return;
    if (node.type === "Property") return code(node.value, shown);
    if (node.type === "SwitchCase") return code(node.consequent, shown);
    if (node.type === "CallExpression" || node.type === "NewExpression") {
      const callee = (node.type === "NewExpression" ? "new " : "") + source.slice(node.callee.start, node.callee.end);
      code(node.callee, shown);
      return node.arguments.forEach((n) => code(n, shown && !NOT_SHOWN.test(callee)));
    }
    for (const [key, value] of Object.entries(node))
      if (
        ![
          "type",
          "start",
          "end",
          "loc",
          "typeAnnotation",
          "returnType",
          "typeParameters",
          "typeArguments",
          "leadingComments",
          "trailingComments",
        ].includes(key)
      )
        code(value, shown);
  }
  function markup(node) {
    if (node.type === "Text" && LETTERS.test(node.data)) told(node, node.data);
    for (const a of node.attributes ?? []) attribute(a);
    for (const key of ["expression", "test", "declaration"]) code(node[key], true);
    for (const key of ["fragment", "body", "consequent", "alternate", "fallback", "pending", "then", "catch", "failed"])
      node[key]?.nodes?.forEach(markup);
  }
  function attribute(a) {
    if (a.type !== "Attribute") return code(a.expression, a.type !== "BindDirective" && a.type !== "ClassDirective");
    if (a.value === true) return;
    for (const piece of [a.value].flat())
      if (piece.type === "Text") {
        if ((SPOKEN.has(a.name) && LETTERS.test(piece.data)) || (MAY_BE.has(a.name) && SENTENCE.test(piece.data))) told(piece, piece.data);
      } else code(piece.expression, !["class", "href", "style", "transform", "fill", "d", "points"].includes(a.name));
  }
  for (const [, text] of raw.matchAll(/content:\s*"([^"]*)"/g))
    if (file.endsWith(".svelte") && LETTERS.test(text)) faults.push(`${name}: content ${JSON.stringify(text)}`);
  code(tree.instance?.content, true);
  code(tree.module?.content, true);
  tree.fragment.nodes.forEach(markup);
}

(function walk(folder) {
  for (const entry of fs.readdirSync(folder, { withFileTypes: true })) {
    const file = path.join(folder, entry.name);
    if (entry.isDirectory()) {
      if (entry.name !== "words") walk(file);
    } else if (/\.(svelte|ts)$/.test(entry.name) && !entry.name.endsWith(".d.ts")) check(file);
  }
})(SRC);

for (const fault of faults) console.error(`${fault}: put it into src/words`);
process.exit(faults.length ? 1 : 0);
