// The review page as a person uses it, in headless Chromium. Pages are written by the program that this build made;
// what they should show comes from its other commands.
import assert from 'node:assert/strict';
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { after, before, test } from 'node:test';
import { fileURLToPath } from 'node:url';

const source = resolve(dirname(fileURLToPath(import.meta.url)), '../..');
const { chromium } = createRequire(join(source, 'web/package.json'))('playwright-core');
const program = process.env.BORDADO_PROGRAM;
const folder = mkdtempSync(join(tmpdir(), 'bordado-web-'));
const bordado = (...args) => execFileSync(program, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'], maxBuffer: 1 << 28 });
const json = (...args) => JSON.parse(bordado(...args, '--json'));
const skiff = join(source, 'examples/skiff/skiff.toml');
const rudder = join(source, 'examples/rudder/rudder.toml');
const hull = join(folder, 'hull.html');
const both = join(folder, 'both.html');

let browser;
before(async () => {
  browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--ignore-gpu-blocklist', '--disable-quic',
      '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
  });
  bordado('review', skiff, '-o', hull);
  bordado('review', rudder, '--other-variant', 'training', '-o', both);
});
after(async () => {
  await browser?.close();
  rmSync(folder, { recursive: true });
});

/** Opens a page and watches it: whatever it says on the console or asks of the network is a failure at the end. */
async function opened(file, fragment = '') {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true });
  const page = await context.newPage();
  const trouble = [];
  page.on('console', (message) => trouble.push(`console: ${message.text()}`));
  page.on('pageerror', (error) => trouble.push(`error: ${error.message}`));
  page.on('request', (request) => {
    if (!/^(file|blob|data):/.test(request.url())) trouble.push(`request: ${request.url()}`);
  });
  await page.goto(`file://${file}${fragment && `#${fragment}`}`);
  await page.waitForFunction(() => document.body.dataset.ready !== undefined, null, { timeout: 60_000 });
  await settled(page);
  return {
    page,
    close: async () => {
      assert.deepEqual(trouble, []);
      await context.close();
    },
  };
}
/** Until names and link follow the view. */
const settled = (page) => page.waitForTimeout(330);
const view = (page) => page.evaluate(() => window.bordado.view());
const text = (page, selector) => page.locator(selector).innerText();

/** The canvas as it is, reduced: how many colours there are, and a text to tell pictures apart. */
async function drawn(page) {
  return page.evaluate(() => {
    const from = document.querySelector('main canvas');
    const small = document.createElement('canvas');
    small.width = 160;
    small.height = 100;
    window.bordado.draw();
    const to = small.getContext('2d');
    to.drawImage(from, 0, 0, 160, 100);
    const bytes = to.getImageData(0, 0, 160, 100).data;
    const colours = new Set();
    let sum = 0;
    for (let i = 0; i < bytes.length; i += 4) {
      colours.add((bytes[i] >> 3 << 10) | (bytes[i + 1] >> 3 << 5) | (bytes[i + 2] >> 3));
      sum = (Math.imul(sum, 31) + bytes[i] + 7 * bytes[i + 1] + 13 * bytes[i + 2]) | 0;
    }
    return { colours: colours.size, sum };
  });
}

/** Ids of elements that can be seen and clicked, found by pointing at a grid of places. */
async function clickElement(page, id, part = 0) {
  const at = await page.evaluate(([i, p]) => window.bordado.seenAt(i, p), [id, part]);
  await page.mouse.click(at[0], at[1]);
  await settled(page);
}

test('it opens without a word on the console or a request, and within three seconds at 50,000 elements', async () => {
  const part = bigPart(250, 200);
  const file = join(folder, 'fifty.html');
  const wrote = json('review', part, '-o', file);
  assert.equal(wrote.elements, 50_000);
  assert.ok(wrote.data_bytes_per_element <= 60, `${wrote.data_bytes_per_element} bytes an element`);
  assert.ok(wrote.program_bytes < 1_500_000, `${wrote.program_bytes} bytes of program`);
  assert.equal(statSync(file).size, wrote.bytes);
  const { page, close } = await opened(file);
  const took = Number(await page.evaluate(() => document.body.dataset.ready));
  console.log(`50,000 elements: open after ${took} ms, in software graphics`);
  assert.ok((await drawn(page)).colours > 3);
  await close();
});

test('a click on an element shows its stack, as bordado at tells it', async () => {
  // A place of the bottom that is seen from above.
  const at = json('at', skiff, '--point', '1500,250,60');
  const { page, close } = await opened(hull, 'eye=0,-0.05,1,2100,0,0,2600');
  await clickElement(page, at.element);
  assert.equal((await view(page)).at.element, at.element);
  assert.match(await text(page, '#panel-place h2'), new RegExp(`^Element ${at.element} `));
  const layers = await page.locator('.stack .layer').evaluateAll((all) => all.map((l) => l.getAttribute('aria-label')));
  assert.equal(layers.length, at.layers.length);
  at.layers.forEach((layer, i) => {
    assert.match(layers[i], new RegExp(`^ply ${layer.ply.replace('.', '\\.')}, .* degrees, ${layer.material}, ${Number(layer.thickness)} mm, z `));
  });
  // Drawn from the tool up: the first layer stands lowest, heights to scale.
  const boxes = await page.locator('.stack .layer > rect:first-of-type').evaluateAll((all) => all.map((r) => [Number(r.getAttribute('y')), Number(r.getAttribute('height'))]));
  const scale = boxes[0][1] / at.layers[0].thickness;
  at.layers.forEach((layer, i) => {
    assert.ok(Math.abs(boxes[i][1] - scale * layer.thickness) < 1e-6 * boxes[i][1]);
    if (i > 0) assert.ok(boxes[i][0] < boxes[i - 1][0]);
  });
  // A, B and D with their meaning.
  const cells = await page.locator('table.matrix').first().locator('td').allInnerTexts();
  assert.ok(Math.abs(Number(cells[0]) / at.A[0][0] - 1) < 1e-3, `${cells[0]} for ${at.A[0][0]}`);
  assert.match(await text(page, '.words'), /pulled along x, it /);
  const meanings = await page.locator('#panel-place').innerText();
  assert.match(meanings, /B11, B12, B22: pulled in the plane of the mesh, it bends\./); // the mesh is the face of the mould
  assert.equal(await page.locator('table.matrix').nth(2).locator('td').nth(2).getAttribute('title'), 'D16: bent along x, it twists');
  assert.equal(await page.locator('.polar svg path').count() > 5, true);
  // A click beside the part lets go.
  await page.mouse.click(400, 760);
  await settled(page);
  assert.equal((await view(page)).at, null);
  await close();
});

test('ramps: a cut across each with every end, its lines as bordado ramps tells them', async () => {
  const told = json('ramps', skiff).ramps;
  const { page, close } = await opened(hull, 'tab=ramps');
  const names = await page.locator('section.ramp').evaluateAll((all) => all.map((s) => s.dataset.ramp));
  assert.deepEqual(names, told.map((r) => r.ramp));
  for (const [i, ramp] of told.entries()) {
    const section = page.locator('section.ramp').nth(i);
    const rows = await section.locator('tbody tr').allInnerTexts();
    assert.equal(rows.length, ramp.steps.length);
    ramp.steps.forEach((step, k) => step.plies.forEach((ply) => assert.ok(rows[k].includes(ply))));
    assert.ok((await section.locator('svg polygon').count()) > ramp.steps.length);
    // The last end stands as far from the first as the ramp is long.
    const ends = (await section.locator('svg text').allTextContents()).map((t) => Number.parseFloat(t)).filter(Number.isFinite);
    assert.ok(ends.some((e) => Math.abs(e / ramp.run - 1) < 0.02), `${ramp.ramp}: ${ends} for ${ramp.run}`);
  }
  const before = await drawn(page);
  await page.locator('section.ramp button.link').first().click();
  await settled(page);
  assert.equal((await view(page)).ply, told[0].steps[0].plies[0]);
  assert.notEqual((await drawn(page)).sum, before.sum);
  await close();
});

test('cloth: what bordado drape tells, shear and net on the part, and the same place in the flat cloth', async () => {
  const draped = join(source, 'examples/draped/draped.toml');
  const file = join(folder, 'draped.html');
  bordado('review', draped, '-o', file);
  const told = json('drape', draped).plies;
  const { page, close } = await opened(file, 'tab=cloth');
  const rows = await page.locator('tr[data-cloth]').evaluateAll((all) => all.map((r) => r.dataset.cloth));
  assert.deepEqual(rows, told.map((p) => p.ply));
  const plain = await drawn(page);
  const ply = told.find((p) => p.pieces.length === 1 && p.ply === 'M2');
  await page.locator('tr[data-cloth="M2"]').click();
  await settled(page);
  assert.equal((await view(page)).ply, 'M2');
  assert.equal((await view(page)).colour, 'shear');
  assert.notEqual((await drawn(page)).sum, plain.sum);
  assert.ok((await text(page, '#panel-cloth')).includes(`${Number(ply.limit_deg)}°`));
  // A click on the flat cloth chooses an element of the ply; it stands in both.
  const flat = page.locator('svg.cloth').first();
  const box = await flat.boundingBox();
  await page.mouse.click(box.x + 0.35 * box.width, box.y + 0.4 * box.height);
  await settled(page);
  const at = (await view(page)).at;
  assert.ok(at, 'a place is chosen');
  assert.equal(await page.locator('svg.cloth [data-here]').first().getAttribute('data-here'), String(at.element));
  const layers = json('at', draped, '--element', String(at.element)).layers;
  assert.ok(layers.some((layer) => layer.ply === 'M2' && layer.drape === 'floor'));
  assert.equal((await view(page)).tab, 'cloth');
  // Weft is another direction than warp.
  await page.evaluate(() => {
    location.hash = 'tab=cloth&ply=T1&show=alone&colour=shear&arrows=weft';
  });
  await page.waitForFunction(() => window.bordado.arrows() > 10, null, { timeout: 30000 });
  await close();
});

test('the curves against direction are those of bordado stack', async () => {
  const wanted = json('stack', skiff, '--point', '1500,250,60');
  const { page, close } = await opened(hull, `at=${wanted.element}`);
  const curve = await page.locator('.polar svg g[aria-label="line"] path').evaluateAll((all) => {
    const solid = all.filter((p) => p.closest('g').getAttribute('stroke') === '#1c4d8c' && !p.closest('g').getAttribute('stroke-dasharray'));
    return solid.map((p) => p.getAttribute('d'));
  });
  assert.equal(curve.length, 1);
  const points = [...curve[0].matchAll(/(-?[\d.]+),(-?[\d.]+)/g)].map((m) => [Number(m[1]), Number(m[2])]);
  // Points stand every 2 degrees; the middle is halfway between 0 and 180.
  const middle = [(points[0][0] + points[90][0]) / 2, (points[0][1] + points[90][1]) / 2];
  const radius = (i) => Math.hypot(points[i][0] - middle[0], points[i][1] - middle[1]);
  for (const { direction_deg: degrees, in_plane: E } of wanted.stiffness_against_direction) {
    if (degrees % 2 !== 0) continue;
    const ratio = radius(degrees / 2) / radius(0);
    assert.ok(Math.abs(ratio - E / wanted.stiffness_against_direction[0].in_plane) < 0.01, `${degrees}: ${ratio}`);
  }
  await close();
});

test('every colouring, every kind of arrows, layers, cuts and single plies draw something of their own', async () => {
  bordado('fields', rudder, '--write', join(folder, 'f.vtu'));
  const file = join(folder, 'fields.html');
  bordado('review', skiff, '--fields', join(folder, 'f.vtu'), '-o', file);
  const { page, close } = await opened(file);
  const pictures = new Map();
  const add = async (name) => {
    await settled(page);
    const now = await drawn(page);
    assert.ok(now.colours > 3, `${name} is blank`);
    return now.sum;
  };
  const modes = await page.locator('#colour option').evaluateAll((all) => all.map((o) => o.value));
  assert.ok(modes.length >= 12);
  for (const mode of modes) {
    if (mode.startsWith('field:') && mode !== 'field:plies') continue; // files have many; one of them will do
    await page.selectOption('#colour', mode);
    pictures.set(`colour ${mode}`, await add(mode));
    assert.ok((await text(page, '.legend')).length > 5, `${mode} has a legend`);
  }
  // Modes that colour alike here: section as laminate (one frame rules), both faces of twill, fields of another part.
  const sums = new Set(pictures.values());
  assert.ok(sums.size >= pictures.size - 5, `${sums.size} pictures of ${pictures.size} modes`);
  for (const [a, b] of [['thickness', 'plies'], ['thickness', 'mass'], ['laminate', 'zone'], ['side', 'zone'], ['angle', 'zone']])
    assert.notEqual(pictures.get(`colour ${a}`), pictures.get(`colour ${b}`), `${a} and ${b}`);

  await page.selectOption('#colour', 'zone');
  await page.selectOption('#ply', 'U2'); // at 45 degrees, so that its fibres do not lie along 0
  await page.click('[data-choice=show-all]');
  const plain = await add('zone');
  const seen = new Set([plain]);
  for (const choice of ['arrows-zero', 'arrows-fibre', 'arrows-normal']) {
    await page.click(`[data-choice=${choice}]`);
    const now = await add(choice);
    assert.ok(!seen.has(now), choice);
    seen.add(now);
    const arrows = await page.evaluate(() => window.bordado.arrows());
    assert.ok(arrows > 40 && arrows < 1500, `${arrows} arrows`);
  }
  await page.click('[data-choice=arrows-none]');
  assert.equal(await add('no arrows'), plain);
  await page.click('#layers');
  const layered = await add('layers');
  assert.ok(!seen.has(layered));
  await page.click('[data-choice=cut-x]');
  const cut = await add('cut');
  assert.notEqual(cut, layered);
  await page.click('[data-choice=show-upto]');
  await page.selectOption('#ply', 'U2');
  const upto = await add('up to U2');
  await page.click('[data-choice=show-alone]');
  assert.notEqual(await add('U2 alone'), upto);
  await close();
});

test('arrows of a zoomed picture stand closer, so that as many are seen', async () => {
  const { page, close } = await opened(hull, 'arrows=fibre&eye=0,-0.05,1,2100,0,0,4400');
  const far = await page.evaluate(() => window.bordado.arrows());
  for (let i = 0; i < 6; i++) await page.keyboard.press('+');
  await settled(page);
  assert.ok((await page.evaluate(() => window.bordado.arrows())) > 2 * far);
  await close();
});

test('both skins of a thin blade carry arrows', async () => {
  const { page, close } = await opened(both, 'arrows=zero&eye=0,1,0,120,0,-400,1100');
  const arrows = await page.evaluate(() => window.bordado.arrows());
  assert.ok(arrows > 160, `${arrows} arrows`); // some 57 on each of four skins; half of them where a cube of the grid holds but one arrow
  await close();
});

test('a link restores the view', async () => {
  const { page, close } = await opened(hull);
  await page.selectOption('#colour', 'laminate');
  await page.click('[data-choice=arrows-zero]');
  await page.click('[data-choice=cut-y]');
  await page.keyboard.press('Escape');
  await page.locator('body').click({ position: { x: 700, y: 20 } });
  await page.keyboard.press('y');
  await page.keyboard.press('ArrowRight');
  await page.click('#tab-zones');
  await page.click('tr[data-zone=rim]');
  await page.waitForFunction(() => location.hash.includes('zone=rim'));
  await settled(page);
  const here = await page.evaluate(() => location.hash);
  const picture = await drawn(page);
  const was = await view(page);
  const again = await opened(hull, here.slice(1));
  assert.deepEqual(await view(again.page), { ...was, camera: (await view(again.page)).camera });
  assert.deepEqual(await drawn(again.page), picture);
  assert.equal(await again.page.locator('tr[data-zone=rim]').getAttribute('aria-selected'), 'true');
  // And back, when the address changes under an open page; nonsense is passed over.
  await again.page.evaluate(() => (location.hash = 'colour=nonsense&ply=none&cut=q7&at=x&eye=1,2&layers=-4&zone=nowhere'));
  await settled(again.page);
  const bare = await view(again.page);
  assert.equal(bare.colour, 'thickness');
  assert.deepEqual([bare.ply, bare.zone, bare.cut, bare.at, bare.layers], [null, null, null, null, 0]);
  await again.close();
  await close();
});

test('plies and zones lead to the picture and back; findings lead to their places', async () => {
  const { page, close } = await opened(hull);
  const whole = await drawn(page);
  await page.click('#tab-plies');
  await page.click('tr[data-ply=K1]');
  await settled(page);
  assert.deepEqual([(await view(page)).ply, (await view(page)).show], ['K1', 'alone']);
  assert.notEqual((await drawn(page)).sum, whole.sum);
  await page.keyboard.press('Escape');
  const at = json('at', skiff, '--point', '1500,250,60');
  await page.evaluate((id) => (location.hash = `tab=plies&at=${id}`), at.element);
  await settled(page);
  const lying = await page.locator('tr[data-ply]').evaluateAll((all) => all.filter((r) => r.querySelector('.mark').textContent === '●').map((r) => r.dataset.ply));
  assert.deepEqual(lying, at.layers.map((l) => l.ply));
  await page.click('#tab-place');
  await page.locator('.stack .layer').nth(2).click();
  assert.equal((await view(page)).ply, at.layers[2].ply);
  await page.click('#tab-findings');
  const camera = (await view(page)).camera;
  await page.locator('button.finding.leads', { hasText: 'laminate.unsymmetric' }).click();
  await settled(page);
  const shown = await view(page);
  assert.notEqual(shown.at, null);
  assert.notDeepEqual(shown.camera, camera);
  const middle = await page.evaluate((id) => window.bordado.seenAt(id), shown.at.element);
  const box = await page.locator('main').boundingBox();
  assert.ok(Math.abs(middle[0] - box.x - box.width / 2) < 40 && Math.abs(middle[1] - box.y - box.height / 2) < 60, `${middle}`);
  await close();
});

test('keys do what they say', async () => {
  const { page, close } = await opened(hull);
  const press = async (...keys) => {
    for (const key of keys) await page.keyboard.press(key);
    await settled(page);
    return view(page);
  };
  assert.equal((await press('c')).colour, 'plies');
  assert.equal((await press('C')).colour, 'thickness');
  assert.equal((await press(']')).ply, 'W1');
  assert.equal((await press(']', ']')).ply, 'U1');
  assert.equal((await press('[')).ply, 'T1');
  assert.equal((await press('u')).show, 'upto');
  assert.equal((await press('o')).show, 'alone');
  assert.equal((await press('p')).show, 'all');
  assert.equal((await press('a')).arrows, 'zero');
  assert.ok((await press('l')).layers > 1);
  assert.equal((await press('k')).cut.axis, 'x');
  assert.ok((await press('.', '.')).cut.at > 0.51);
  assert.equal((await press('e')).lines, false);
  const z = await press('z');
  assert.ok(z.camera.from[2] > 0.999);
  assert.ok((await press('Z')).camera.from[2] < -0.999);
  const far = (await press('f')).camera.height;
  assert.ok((await press('+')).camera.height < far);
  const turned = await press('x', 'ArrowRight');
  assert.ok(Math.abs(turned.camera.from[1] - Math.sin(Math.PI / 18)) < 1e-3, `${turned.camera.from}`);
  await press('?');
  assert.ok(await page.locator('.help').isVisible());
  await press('Escape');
  assert.equal(await page.locator('.help').count(), 0);
  const let_go = await press('Escape');
  assert.deepEqual([let_go.ply, let_go.at, let_go.zone], [null, null, null]);
  // Every control can be reached without a mouse.
  await page.locator('#tab-plies').focus();
  await page.keyboard.press('Enter');
  await page.locator('tr[data-ply=U2]').focus();
  await page.keyboard.press('Enter');
  assert.equal((await view(page)).ply, 'U2');
  await close();
});

test('names on the picture stand on what they name, also after the window has changed', async () => {
  const { page, close } = await opened(hull, 'colour=zone');
  for (const height of [800, 640]) {
    await page.setViewportSize({ width: 1280, height });
    await page.waitForTimeout(700);
    await page.waitForFunction(() => document.querySelectorAll('.tag').length >= 4, null, { timeout: 30000 });
    const names = await page.locator('.tag').evaluateAll((all) => all.map((t) => [t.textContent, ...(({ x, y, width, height: h }) => [x + width / 2, y + h / 2])(t.getBoundingClientRect())]));
    for (const [name, x, y] of names) {
      await page.mouse.move(x, y);
      await page.waitForFunction((n) => document.querySelector('.pointed').textContent.includes(` · ${n} · `), name, { timeout: 5000 });
    }
  }
  await close();
});

test('distances are measured between places, in the units of the part', async () => {
  const places = ['1000,200,80', '2600,-250,60'].map((p) => json('at', skiff, '--point', p));
  const { page, close } = await opened(hull, 'eye=0,-0.05,1,2100,0,0,2600');
  await page.keyboard.press('m');
  for (const p of places) await clickElement(page, p.element);
  const words = await text(page, '.notice[role=status]');
  const wanted = Math.hypot(...places[0].centre.map((v, k) => places[1].centre[k] - v));
  const got = Number(/^([\d.]+) mm in a straight line/.exec(words)[1]);
  assert.ok(Math.abs(got - wanted) < 6, `${got} for ${wanted}: a pixel here is 3.5 mm`);
  await close();
});

test('two variants stand side by side, turn together, and differ where the shop would lay other plies', async () => {
  const diff = json('diff', rudder, rudder, '--variant-after', 'training');
  const { page, close } = await opened(both, 'tab=differences&colour=differs');
  assert.equal(await page.locator('h2.pane').count(), 2);
  for (const change of diff.changes.filter((c) => c.kind === 'ply')) assert.match(await text(page, '.changes'), new RegExp(`${change.name}`));
  assert.match(await text(page, '.legend'), /other plies/);
  // A ply that only the second has, by itself: nothing of the first is coloured.
  await page.selectOption('#ply', 'G1');
  await settled(page);
  assert.match(await text(page, 'fieldset .about'), /second only$/);
  const half_of = (i) =>
    page.evaluate((part) => {
      const canvas = document.querySelector('main canvas');
      const small = document.createElement('canvas');
      [small.width, small.height] = [80, 100];
      window.bordado.draw();
      const to = small.getContext('2d');
      to.drawImage(canvas, (part * canvas.width) / 2, 0, canvas.width / 2, canvas.height, 0, 0, 80, 100);
      const b = to.getImageData(0, 0, 80, 100).data;
      let coloured = 0;
      for (let k = 0; k < b.length; k += 4) coloured += Math.max(b[k], b[k + 1], b[k + 2]) - Math.min(b[k], b[k + 1], b[k + 2]) > 45;
      return coloured;
    }, i);
  assert.equal(await half_of(0), 0);
  assert.ok((await half_of(1)) > 20);
  await page.selectOption('#ply', '');
  const id = json('at', rudder, '--point', '100,0,-400').element;
  const where = () => page.evaluate((i) => [window.bordado.seenAt(i, 0), window.bordado.seenAt(i, 1)], id);
  const [a, b] = await where();
  const half = (await page.locator('main').boundingBox()).width / 2;
  assert.ok(Math.abs(b[0] - a[0] - half) < 1 && Math.abs(b[1] - a[1]) < 1e-6, 'linked');
  await page.keyboard.press('ArrowRight');
  await settled(page);
  const [c, d] = await where();
  assert.notDeepEqual(a, c);
  assert.ok(Math.abs(d[0] - c[0] - half) < 1, 'still linked');
  await close();
});

test('picture and print: a PNG with title and legend, and paper with every table', async () => {
  const { page, close } = await opened(hull, 'colour=zone');
  const [download] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('s')]);
  assert.equal(download.suggestedFilename(), 'Skiff-hull.png');
  assert.ok(statSync(await download.path()).size > 10_000);
  await page.emulateMedia({ media: 'print' });
  const pdf = await page.pdf({ path: join(folder, 'p.pdf'), format: 'A4' });
  assert.ok(pdf.length > 30_000);
  const words = execFileSync('pdftotext', ['-layout', join(folder, 'p.pdf'), '-'], { encoding: 'utf8' });
  for (const word of ['Skiff hull', 'keel-strip', 'carbon-twill', 'laminate.unsymmetric', 'mast-floor']) assert.ok(words.includes(word), word);
  await close();
});

test('200,000 elements load and answer; above that the page says what it left out', async () => {
  const file = join(folder, 'large.html');
  const wrote = json('review', bigPart(500, 400), '-o', file);
  assert.deepEqual([wrote.elements, wrote.drawn], [200_000, 200_000]);
  assert.ok(wrote.data_bytes_per_element <= 60);
  const { page, close } = await opened(file, 'eye=0,-0.05,1,2000,0,0,2600');
  assert.equal(await page.locator('.notice').count(), 0);
  await clickElement(page, 100_250);
  assert.equal((await view(page)).at.element, 100_250);
  await page.selectOption('#colour', 'laminate');
  await settled(page);
  assert.ok((await drawn(page)).colours > 3);
  await close();
  const coarse = join(folder, 'coarse.html');
  json('review', bigPart(300, 200), '--most-elements', '20000', '-o', coarse);
  const reduced = await opened(coarse);
  assert.match(await text(reduced.page, '.notice'), /^Drawn coarser: [\d,]+ of 60,000 elements/);
  await reduced.close();
});

test('results: the part as it moves, stresses of a ply, the worst places, and what bordado stress tells of them', async () => {
  const panel = join(source, 'examples/panel/panel.toml');
  bordado('solve', panel, '--folder', folder);
  const told = json('stress', panel, '--folder', folder);
  const file = join(folder, 'results.html');
  bordado('review', panel, '--results', folder, '-o', file);
  // It opens on the reserves, and what is chosen instead stands in its link.
  const { page, close } = await opened(file);
  assert.equal((await view(page)).tab, 'results');
  assert.equal((await view(page)).colour, 'reserve');
  assert.match(await text(page, '.legend'), /Reserve/);
  await page.selectOption('#colour', 'thickness');
  await page.waitForFunction(() => /colour=thickness/.test(location.hash));
  await page.selectOption('#colour', 'reserve');
  const first = told.reserves.first;
  const row = page.locator('tr[data-worst]').first();
  assert.match(await row.innerText(), new RegExp(`${Number(first.factor.toPrecision(4))}[\\s\\S]*${first.mode.split(' ')[0]}[\\s\\S]*${first.ply}`));
  await row.click();
  await settled(page);
  const chosen = (await view(page)).at.element;
  assert.equal(chosen, first.element);

  // The stresses there are those that the command tells.
  await page.click('#tab-place');
  const place = json('stress', panel, '--folder', folder, '--element', String(chosen)).place;
  const near = (shown, exact, what) => assert.ok(Math.abs(shown - exact) <= 0.006 * Math.abs(exact) + 1e-6, `${what}: ${shown} for ${exact}`);
  const most = { s1: (l) => l.ply_stress[0], s2: (l) => l.ply_stress[1], t12: (l) => l.ply_stress[2], t13: (l) => l.ply_shear[0], t23: (l) => l.ply_shear[1] };
  for (const [name, of] of Object.entries(most)) {
    const texts = await page.locator(`[data-stress="${name}"] text`).allTextContents();
    const ends = texts.map((t) => t.trim().replace('−', '-').replaceAll(/[^\d.e-]/g, ''));
    const values = place.layers.map(of);
    const size = Math.max(...values.map(Math.abs));
    if (size < 1e-6) continue;
    near(Number(ends.at(-2)), Math.min(0, ...values), `least ${name}`);
    near(Number(ends.at(-1)), Math.max(0, ...values), `most ${name}`);
  }

  // N, M and Q are those of the command, to the last noughts.
  const forces = await page.locator('#panel-place').innerText();
  const listed = /N ([\d. e−-]+) N\/mm · M ([\d. e−-]+) N · Q ([\d. e−-]+) N\/mm/.exec(forces.replaceAll('\n', ' '));
  assert.ok(listed, forces);
  for (const [k, own] of [place.N, place.M, place.Q].entries())
    for (const [i, shown] of listed[k + 1].trim().split(/\s+/).entries())
      assert.ok(Math.abs(Number(shown.replace('−', '-')) - own[i]) <= 0.006 * Math.abs(own[i]), `${'NMQ'[k]}: ${shown} for ${own[i]}`);

  // It moves: another picture for each shape and scale, and to and fro without being asked again.
  const still = await drawn(page);
  const mark = () => page.locator('.overlay .chosen circle').first().evaluate((c) => [Number(c.getAttribute('cx')), Number(c.getAttribute('cy'))]);
  const marked = await mark();
  await page.selectOption('#shape', { index: 1 });
  await settled(page);
  const moved = await drawn(page);
  assert.notEqual(moved.sum, still.sum);
  await page.locator('#scale').fill('1000');
  await settled(page);
  // The mark of the chosen place goes with it.
  const [x, y] = await mark();
  assert.ok(Math.hypot(x - marked[0], y - marked[1]) > 2, `${[x, y]} after ${marked}`);
  assert.notEqual((await drawn(page)).sum, moved.sum);
  await page.check('#moving');
  await page.waitForTimeout(300);
  const one = await drawn(page);
  await page.waitForTimeout(400);
  assert.notEqual((await drawn(page)).sum, one.sum);
  await page.uncheck('#moving');
  assert.match(await page.evaluate(() => location.hash), /shape=/);

  // Colours of its own for every result; of a stress for every face.
  const seen = new Set();
  for (const colour of ['reserve', 'criterion', 'critical', 'stress:0', 'stress:1', 'stress:2']) {
    await page.selectOption('#colour', colour);
    await settled(page);
    seen.add((await drawn(page)).sum);
  }
  assert.ok(seen.size >= 5, `${seen.size} pictures of six`);
  await page.click('[data-choice="face-bottom"]');
  await settled(page);
  assert.ok(!seen.has((await drawn(page)).sum));
  await close();
});

test('a case with temperatures, and failure envelopes: what the page draws is what the commands tell', async () => {
  const warm = mkdtempSync(join(tmpdir(), 'bordado-warm-'));
  const panel = join(source, 'examples/panel');
  const text = readFileSync(join(panel, 'panel.toml'), 'utf8')
    .replace('panel.msh', join(panel, 'panel.msh'))
    .replace('thickness = 0.2', 'thickness = 0.2\nalpha1 = -0.3e-6\nalpha2 = 30e-6');
  writeFileSync(join(warm, 'warm.toml'), `${text}\n[load.cold]\ntemperature = -20\nstress-free = 60\n`);
  const part = join(warm, 'warm.toml');
  bordado('solve', part, '--folder', warm);
  const file = join(warm, 'warm.html');
  bordado('review', part, '--results', warm, '--criterion', 'tsai-wu', '--criterion', 'puck', '-o', file);
  const told = json('stress', part, '--folder', warm);
  const element = told.reserves.first.element;
  const place = json('stress', part, '--folder', warm, '--element', String(element)).place;
  const { page, close } = await opened(file, `at=${element}`);
  for (const [name, k] of [['s1', 0], ['s2', 1], ['t12', 2]]) {
    const texts = await page.locator(`[data-stress="${name}"] text`).allTextContents();
    const ends = texts.map((t) => Number(t.trim().replace('−', '-').replaceAll(/[^\d.e-]/g, '')));
    const values = place.layers.map((l) => l.ply_stress[k]);
    const size = Math.max(...values.map(Math.abs));
    if (size < 1e-6) continue;
    assert.ok(Math.abs(ends.at(-2) - Math.min(0, ...values)) <= 0.006 * size, `least ${name}: ${ends.at(-2)} for ${Math.min(...values)}`);
    assert.ok(Math.abs(ends.at(-1) - Math.max(0, ...values)) <= 0.006 * size, `most ${name}`);
  }
  // The envelope is the one that the command draws: its points on the axes.
  const points = (await page.evaluate((id) => window.bordado.envelopes(id), element)).filter((c) => c.pair === 0);
  assert.deepEqual(points.map((p) => p.criterion), ['tsai-wu', 'puck']);
  bordado('at', part, '--element', String(element), '--criterion', 'tsai-wu', '--between', 'Nx,Ny', '--envelope', join(warm, 'one.csv'));
  const line = readFileSync(join(warm, 'one.csv'), 'utf8').split('\n')[1].split(',');
  assert.ok(Math.abs(points[0].points[0][0] / Number(line[1]) - 1) < 1e-3, `${points[0].points[0]} for ${line[1]}`);
  assert.match(await page.locator('[data-pieces="puck"]').innerText(), /fibre|matrix|inter-fibre/);
  await page.selectOption('[aria-label="Components of the envelope"]', '3');
  await settled(page);
  assert.match(await page.evaluate(() => location.hash), /pair=3/);
  assert.equal(await page.locator('figure[data-envelope="3"] svg[aria-label*="Mx and My"]').count(), 1);
  await close();
  rmSync(warm, { recursive: true });
});

test('stresses of sheared cloth are those that stress tells', async () => {
  const dome = mkdtempSync(join(tmpdir(), 'bordado-dome-'));
  const n = 12;
  const nodes = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++) {
      const [a, b] = [1.1 * (i / n - 0.5), 1.1 * (j / n - 0.5)];
      const size = Math.hypot(Math.tan(a), Math.tan(b), 1) / 100;
      nodes.push([Math.tan(a) / size, Math.tan(b) / size, 1 / size]);
    }
  const elements = [];
  for (let j = 0; j < n; j++) for (let i = 0; i < n; i++) elements.push([j * (n + 1) + i + 1, j * (n + 1) + i + 2, (j + 1) * (n + 1) + i + 2, (j + 1) * (n + 1) + i + 1]);
  const rim = [];
  for (let i = 0; i < n; i++) rim.push([i + 1, i + 2], [n * (n + 1) + i + 1, n * (n + 1) + i + 2], [i * (n + 1) + 1, (i + 1) * (n + 1) + 1], [(i + 1) * (n + 1), (i + 2) * (n + 1)]);
  const lines = [...rim.map((e, k) => `${k + 1} 1 2 2 2 ${e.join(' ')}`), ...elements.map((e, k) => `${rim.length + k + 1} 3 2 1 1 ${e.join(' ')}`)];
  writeFileSync(
    join(dome, 'dome.msh'),
    `$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$PhysicalNames\n2\n2 1 "skin"\n1 2 "rim"\n$EndPhysicalNames\n$Nodes\n${nodes.length}\n${nodes.map((p, k) => `${k + 1} ${p.join(' ')}`).join('\n')}\n$EndNodes\n$Elements\n${lines.length}\n${lines.join('\n')}\n$EndElements\n`,
  );
  writeFileSync(
    join(dome, 'dome.toml'),
    `[part]\nname = "Dome"\nunits = "mm, t, s"\nmesh = { file = "dome.msh", length = "mm" }\nside = { along = [0, 0, 1] }\nsurface = "bottom"\n[material.cloth]\nfrom = "carbon-twill-yarns"\n[frame.x]\nvector = [1, 0, 0]\n[layup]\nframe = "x"\nplies = [ { id = "C", material = "cloth", angle = 0, drape = "net" } ]\n[drape.net]\nseed = [0, 0, 100]\n[support.rim]\non = "rim"\nhold = "pinned"\n[load.p]\non = "skin"\nface = "tool"\npressure = 0.1\n`,
  );
  const part = join(dome, 'dome.toml');
  bordado('solve', part, '--folder', dome);
  const file = join(dome, 'dome.html');
  bordado('review', part, '--results', dome, '-o', file);
  // In a corner of the cap, where the cloth is sheared.
  const element = rim.length + 2 * n + 3;
  const place = json('stress', part, '--folder', dome, '--element', String(element)).place;
  const at = json('at', part, '--element', String(element));
  assert.ok(Math.abs(at.layers[0].shear_deg) > 5, `${at.layers[0].shear_deg}`);
  const { page, close } = await opened(file, `at=${element}`);
  // The page shows its section, whose angles are rounded; as if unsheared, t12 would be off by 8 % of the largest stress.
  const size = Math.max(...place.layers.flatMap((l) => l.ply_stress.map(Math.abs)));
  for (const [name, k] of [['s1', 0], ['s2', 1], ['t12', 2]]) {
    const texts = await page.locator(`[data-stress="${name}"] text`).allTextContents();
    const ends = texts.map((t) => Number(t.trim().replace('−', '-').replaceAll(/[^\d.e-]/g, '')));
    const values = place.layers.map((l) => l.ply_stress[k]);
    assert.ok(Math.abs(ends.at(-2) - Math.min(0, ...values)) <= 0.02 * size, `least ${name}: ${ends.at(-2)} for ${Math.min(...values)}`);
    assert.ok(Math.abs(ends.at(-1) - Math.max(0, ...values)) <= 0.02 * size, `most ${name}: ${ends.at(-1)} for ${Math.max(...values)}`);
  }
  await close();
  rmSync(dome, { recursive: true });
});

test('a broken page says so', async () => {
  const context = await browser.newContext();
  const page = await context.newPage();
  const file = join(folder, 'broken.html');
  writeFileSync(file, readFileSync(hull, 'utf8').replace(/(id="data">.{200}).*?</s, '$1<'));
  await page.goto(`file://${file}`);
  await page.waitForFunction(() => document.body.innerText.includes('cannot be shown'));
  await context.close();
});

/** A curved panel of n x m quadrilaterals as a part file; ids from 1, row by row. */
function bigPart(n, m) {
  const mesh = ['$MeshFormat', '2.2 0 8', '$EndMeshFormat', '$Nodes', String((n + 1) * (m + 1))];
  for (let j = 0; j <= m; j++)
    for (let i = 0; i <= n; i++) {
      const [x, y] = [(4000 * i) / n, 1600 * (j / m - 0.5)];
      mesh.push(`${j * (n + 1) + i + 1} ${x} ${y} ${Math.sin(x / 900) * 180 + (y * y) / 2500}`);
    }
  mesh.push('$EndNodes', '$Elements', String(n * m));
  for (let j = 0; j < m; j++)
    for (let i = 0; i < n; i++) {
      const a = j * (n + 1) + i + 1;
      mesh.push(`${j * n + i + 1} 3 2 1 1 ${a} ${a + 1} ${a + n + 2} ${a + n + 1}`);
    }
  mesh.push('$EndElements', '');
  writeFileSync(join(folder, 'big.msh'), mesh.join('\n'));
  const part = join(folder, 'big.toml');
  writeFileSync(part, `[part]
name = "Panel"
units = "mm, t, s"
mesh = { file = "big.msh", length = "mm" }
side = { along = [0, 0, 1] }
surface = "bottom"
[material.c]
kind = "isotropic"
E = 70000
nu = 0.3
density = 2.7e-9
thickness = 0.2
[frame.along]
vector = [1, 0, 0]
[frame.round]
axis = { through = [2000, 0, 0], along = [0, 0, 1], take = "hoop" }
[zone.end]
box = { from = [0, -900, -900], to = [1000, 900, 900] }
[zone.disc]
sphere = { centre = [2500, 0, 100], radius = 600 }
[layup]
material = "c"
frame = "along"
plies = [
  { id = "A", code = "[0/±45/90]s" },
  { id = "B", angle = 0, zone = "end" },
  { id = "H", angle = 45, zone = "disc", frame = "round" },
]
`);
  return part;
}
