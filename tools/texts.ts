import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import ts from 'typescript';

// Lists every text that a person may read, so that one person can read them in one sitting: `npm run texts`; with --json for the test.

/** A text that a person may read: on the page, in an answer of the API, on the command line. */
export interface ShownText {
  /** From the project's folder on. */
  file: string;
  line: number;
  /** As it is written; what is filled in stands as `…`. */
  text: string;
}

/** Folders whose code speaks to people. */
const speaking = ['core', 'contract', 'media', 'engine', 'server', 'cli', 'desk', 'web'];

const project = fileURLToPath(new URL('..', import.meta.url));
const files = execFileSync('git', ['ls-files', '-co', '--exclude-standard', ...speaking], {
  cwd: project,
  encoding: 'utf8',
})
  .trim()
  .split('\n')
  .filter((file) => /\.tsx?$/.test(file) && !/\.test\.tsx?$|\.d\.ts$|\/testing(\/|\.)/.test(file));

/** Whether a string is words for people: not a path, a key, a class of style, SQL or code. */
const isWords = (text: string): boolean =>
  /[A-Za-z]{2}/.test(text) &&
  (/[a-z…)] [a-z…(A-Z0-9]/.test(text) || /^[A-Z][a-z]+[.!?]?$/.test(text)) &&
  !/^(SELECT|INSERT|UPDATE|DELETE|CREATE|ALTER|DROP|SHOW|select|update|delete) .*\b(from|FROM|table|TABLE|set|SET|INTO)\b/.test(
    text,
  ) &&
  !/^[\w./:@-]+$/.test(text.replace(/^[A-Z][a-z]+[.!?]?$/, 'x y'));

/** What a node says, with `…` where something is filled in; undefined where it is no text. */
function saidBy(node: ts.Node): string | undefined {
  if (ts.isStringLiteral(node) || ts.isNoSubstitutionTemplateLiteral(node)) return node.text;
  if (ts.isJsxText(node)) return node.text.replace(/\s+/g, ' ').trim();
  if (ts.isTemplateExpression(node))
    return node.head.text + node.templateSpans.map(({ literal }) => `…${literal.text}`).join('');
  return undefined;
}

/** Nodes whose texts no person reads: imports, types, thrown plain errors, patterns. */
const isSilent = (node: ts.Node): boolean =>
  ts.isImportDeclaration(node) ||
  ts.isExportDeclaration(node) ||
  ts.isTypeNode(node) ||
  (ts.isNewExpression(node) && ['Error', 'TypeError', 'RangeError', 'RegExp'].includes(node.expression.getText())) ||
  (ts.isCallExpression(node) && /^(knex|this\.knex|db|sql)\b.*\.raw$/.test(node.expression.getText()));

/** Every text of a file that a person may read, in the order of its lines. */
function textsOf(file: string): ShownText[] {
  const source = ts.createSourceFile(file, readFileSync(join(project, file), 'utf8'), ts.ScriptTarget.Latest, true);
  const found: ShownText[] = [];
  const visit = (node: ts.Node): void => {
    if (isSilent(node)) return;
    const text = saidBy(node);
    if (text !== undefined && isWords(text)) {
      const { line } = source.getLineAndCharacterOfPosition(node.getStart(source));
      found.push({ file, line: line + 1, text });
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

const found = files.flatMap(textsOf);
if (process.argv.includes('--json')) process.stdout.write(JSON.stringify(found));
else {
  let file = '';
  for (const one of found) {
    if (one.file !== file) console.log(`\n${one.file}`);
    file = one.file;
    console.log(`${String(one.line).padStart(5)}  ${one.text.replace(/\s+/g, ' ')}`);
  }
}
