// Bundles the page into one HTML file: node build.mjs OUT.html
import { build } from 'esbuild';
import { readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const here = dirname(fileURLToPath(import.meta.url));
const out = process.argv[2] ?? join(here, 'page.html');
const bundle = async (entry, loader) => {
  const result = await build({
    entryPoints: [join(here, 'src', entry)],
    bundle: true,
    minify: true,
    write: false,
    metafile: true,
    format: 'iife',
    target: 'es2022',
    charset: 'utf8',
    legalComments: 'none', // the whole licences stand in the page
    jsx: 'automatic',
    jsxImportSource: 'preact',
    logLevel: 'warning',
    loader,
  });
  return { text: result.outputFiles[0].text, inputs: Object.keys(result.metafile.inputs) };
};

/** Licences of the packages in the bundle, each text once, under the names of those that it holds for. */
function licences(inputs) {
  const packages = new Set(inputs.map((path) => /node_modules\/((?:@[^/]+\/)?[^/]+)/.exec(path)?.[1]).filter(Boolean));
  const texts = new Map();
  for (const name of [...packages].sort()) {
    const folder = join(here, 'node_modules', name);
    const file = readdirSync(folder).find((f) => /^licen[cs]e/i.test(f));
    if (!file) throw new Error(`${name} has no licence file`);
    const text = readFileSync(join(folder, file), 'utf8').trim();
    texts.set(text, [...(texts.get(text) ?? []), name]);
  }
  return [...texts].map(([text, names]) => `${names.join(', ')}\n\n${text}`).join('\n\n----\n\n');
}

const [script, style] = await Promise.all([bundle('main.tsx', {}), bundle('style.css', {})]);
if (/<\/script/i.test(script.text)) throw new Error('the bundle would end its own script element');
const page = readFileSync(join(here, 'src', 'page.html'), 'utf8');
const marked = { '@STYLE@': style.text, '@SCRIPT@': script.text, '@LICENCES@': licences(script.inputs).replaceAll('<', '&lt;') };
const filled = page.replace(/@(STYLE|SCRIPT|LICENCES)@/g, (mark) => marked[mark]);
for (const mark of ['@TITLE@', '@DATA@'])
  if (filled.split(mark).length !== 2) throw new Error(`${mark} must stand in the page exactly once`);
writeFileSync(out + '.part', filled);
renameSync(out + '.part', out);
