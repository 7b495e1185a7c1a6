// Every text of the pages, as JSON on standard output: [file, one, many or null]. Read by the compiler's own parser.
const fs = require("fs");
const path = require("path");
const ts = require(path.join(__dirname, "../frontend/node_modules/typescript"));

const ROOT = path.join(__dirname, "..");
const SOURCE = path.join(ROOT, "frontend/src");
const found = [];

/** What stands there: a text, or either of two. */
function texts(node) {
  if (!node) return [];
  if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) return [node.text];
  if (ts.isConditionalExpression(node)) return [...texts(node.whenTrue), ...texts(node.whenFalse)];
  return ts.isParenthesizedExpression(node) ? texts(node.expression) : [];
}

function read(file) {
  const where = path.relative(ROOT, file);
  const visit = (node) => {
    if (ts.isCallExpression(node) && ts.isIdentifier(node.expression)) {
      const [first, second, third] = node.arguments;
      const called = node.expression.text;
      if (called === "say") for (const one of texts(first)) found.push([where, one, null]);
      if (called === "several") for (const one of texts(second)) found.push([where, `{count} ${one}`, `{count} ${one}s`]);
      if (called === "sayMany" && texts(third).length) found.push([where, texts(second)[0], texts(third)[0]]);
    }
    ts.forEachChild(node, visit);
  };
  visit(ts.createSourceFile(file, fs.readFileSync(file, "utf8"), ts.ScriptTarget.Latest, true, ts.ScriptKind.TSX));
}

for (const file of fs.readdirSync(SOURCE, { recursive: true }).sort())
  if (/\.tsx?$/.test(file) && !file.endsWith(".d.ts")) read(path.join(SOURCE, file));
process.stdout.write(JSON.stringify(found));
