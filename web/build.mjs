// Bundles the page into one HTML file: node build.mjs OUT.html
import { build } from 'esbuild';
import { readFileSync, writeFileSync, renameSync } from 'node:fs';
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
    format: 'iife',
    target: 'es2022',
    charset: 'utf8',
    legalComments: 'none',
    jsx: 'automatic',
    jsxImportSource: 'preact',
    logLevel: 'warning',
    loader,
  });
  return result.outputFiles[0].text;
};
const [script, style] = await Promise.all([bundle('main.tsx', {}), bundle('style.css', {})]);
if (/<\/script/i.test(script)) throw new Error('the bundle would end its own script element');
const page = readFileSync(join(here, 'src', 'page.html'), 'utf8');
const marked = { '@STYLE@': style, '@SCRIPT@': script };
const filled = page.replace(/@(STYLE|SCRIPT)@/g, (mark) => marked[mark]);
for (const mark of ['@TITLE@', '@DATA@'])
  if (filled.split(mark).length !== 2) throw new Error(`${mark} must stand in the page exactly once`);
writeFileSync(out + '.part', filled);
renameSync(out + '.part', out);
