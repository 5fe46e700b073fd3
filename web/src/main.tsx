// The review page.

import { render } from 'preact';
import { useEffect, useMemo, useRef, useState } from 'preact/hooks';
import { number } from './colours';
import { open, type Page, type Part, type Shows, type Vector } from './data';
import { composed, save } from './export';
import { LegendView } from './legend';
import { measured, Overlay } from './overlay';
import { Rail, stepPly } from './rail';
import { Picture } from './scene';
import { Polar, Reading, StackDrawing, zonesAt } from './stack';
import { Differences, FindingList, PlyTable, ZoneTable } from './tables';
import { tags, type Tag } from './tags';
import { fromFragment, plain, toFragment, type Arrows, type Tab, type View } from './view';
import { modesOf } from './colouring';

const keys: [string, string][] = [
  ['f', 'all of the part'],
  ['x y z', 'look along an axis; with shift from the other side'],
  ['arrows, + −', 'turn, nearer and farther'],
  ['[ ]', 'ply before, next ply'],
  ['o  u  p', 'one ply, built up to it, all plies'],
  ['c', 'next colouring; with shift the one before'],
  ['a', 'arrows: 0°, fibre, normal, none'],
  ['l', 'layers as solids'],
  ['k', 'cut square to x, y, z, none'],
  [', .', 'move the cut'],
  ['e', 'lines of the mesh'],
  ['m', 'measure between two points'],
  ['s', 'save the picture'],
  ['Esc', 'let go of what is chosen'],
  ['?', 'this list'],
];

const facts = (p: Part) => `${p.elements.toLocaleString('en')} elements · ${number(p.area, 3)} m² · ${number(p.mass)} kg`;

/** A view without what this page does not have. */
function known(page: Page, view: View): View {
  const has = (all: { id?: string; name?: string }[], name: string) => all.some((x) => (x.id ?? x.name) === name);
  return {
    ...view,
    colour: modesOf(page.parts).some((m) => m.key === view.colour) ? view.colour : plain.colour,
    ply: view.ply !== null && page.parts.some((p) => has(p.plies, view.ply!)) ? view.ply : null,
    show: view.ply !== null && page.parts.some((p) => has(p.plies, view.ply!)) ? view.show : 'all',
    zone: view.zone !== null && page.parts.some((p) => has(p.zones, view.zone!)) ? view.zone : null,
    tab: view.tab === 'differences' && !page.comparison ? 'place' : view.tab,
  };
}

function App(props: { page: Page; started: number }) {
  const { page, started } = props;
  const host = useRef<HTMLDivElement>(null);
  const [picture, setPicture] = useState<Picture | null>(null);
  const [view, setView] = useState<View>(() => known(page, fromFragment(location.hash)));
  const [measuring, setMeasuring] = useState(false);
  const [help, setHelp] = useState(false);
  const [pointed, setPointed] = useState('');
  const [names, setNames] = useState<Tag[]>([]);
  const [drawn, setDrawn] = useState(0);
  const [side, setSide] = useState(0);
  const [size, setSize] = useState('');
  const latest = useRef(view);
  latest.current = view;
  const set = (change: Partial<View>) => setView((v) => ({ ...v, ...change }));

  // The picture, once.
  useEffect(() => {
    const made = new Picture(page, host.current!);
    if (latest.current.camera) made.set(latest.current.camera);
    made.onDrawn = () => setDrawn((n) => n + 1);
    made.onResize = (w, h) => setSize(`${w} ${h}`);
    made.onCamera = () => set({ camera: made.now });
    setPicture(made);
    const restore = () => {
      const next = known(page, fromFragment(location.hash));
      if (next.camera) made.set(next.camera);
      setView(next);
    };
    window.addEventListener('hashchange', restore);
    return () => window.removeEventListener('hashchange', restore);
  }, []);

  const place = useMemo(() => {
    if (!picture || !view.at) return null;
    const element = picture.elementOf(view.at);
    return element < 0 ? null : { part: view.at.part, element };
  }, [picture, view.at?.part, view.at?.element]);

  // The view, in the picture and in the link.
  useEffect(() => {
    if (!picture) return;
    picture.show(view);
    picture.select(place);
    const timer = setTimeout(() => history.replaceState(null, '', `#${toFragment(view)}`), 120);
    return () => clearTimeout(timer);
  }, [picture, view, place]);
  useEffect(() => {
    if (!picture) return;
    picture.draw();
    document.body.dataset['ready'] = String(Math.round(performance.now() - started));
  }, [picture]);

  // Names stand on the picture when it has come to rest.
  useEffect(() => {
    if (!picture) return;
    setNames([]);
    const timer = setTimeout(() => {
      const w = picture.canvas.clientWidth / page.parts.length;
      const h = picture.canvas.clientHeight;
      const scale = 4;
      const all = page.parts.flatMap((_, i) => {
        const { colouring } = picture.parts[i]!;
        const columns = Math.ceil(w / scale);
        const ids = picture.ids(i, columns, Math.ceil(h / scale));
        return tags(ids, columns, colouring.category, colouring.tag, scale).map((t) => ({ ...t, x: t.x + i * w }));
      });
      setNames(view.colour === 'side' ? [] : all);
    }, 220);
    return () => clearTimeout(timer);
  }, [picture, view.colour, view.ply, view.show, view.zone, view.cut, view.layers, view.camera, size]);

  const show = (to: Shows, part = 0) => {
    if (to.element !== undefined) {
      set({ at: { part, element: page.parts[part]!.ids[to.element]! }, zone: null, show: 'all' });
      picture?.goTo(part, to.element);
    } else if (to.ply !== undefined) set({ ply: page.parts[part]!.plies[to.ply]!.id, show: 'alone', zone: null });
    else if (to.zone !== undefined) set({ zone: page.parts[part]!.zones[to.zone]!.name });
  };
  const click = (x: number, y: number) => {
    const hit = picture?.pick(x, y) ?? null;
    if (measuring) {
      if (!hit) return;
      set({ measure: view.measure.length >= 2 ? [hit.point] : [...view.measure, hit.point] });
      return;
    }
    set(hit ? { at: { part: hit.part, element: page.parts[hit.part]!.ids[hit.element]! }, tab: view.tab === 'plies' || view.tab === 'zones' ? view.tab : 'place' } : { at: null });
  };

  // A click is a press and a release at one place; a turn is not.
  const pressed = useRef<[number, number] | null>(null);
  const hovering = useRef(0);
  const over = (event: PointerEvent) => {
    if (event.buttons !== 0 || !picture) return;
    clearTimeout(hovering.current);
    const { offsetX, offsetY } = event;
    hovering.current = window.setTimeout(() => {
      const hit = picture.pick(offsetX, offsetY);
      picture.hover(hit);
      if (!hit) return setPointed('');
      const part = page.parts[hit.part]!;
      const { colouring } = picture.parts[hit.part]!;
      const { code } = part.stacks[part.stackOf[hit.element]!]!;
      const coloured = colouring.text(hit.element);
      setPointed(
        [`element ${part.ids[hit.element]!}`, coloured, coloured.includes(code) ? '' : code, zonesAt(part, hit.element).join(', ')]
          .filter(Boolean)
          .join(' · '),
      );
    }, 40);
  };

  const savePicture = () => {
    if (!picture) return;
    const { colouring } = picture.parts[0]!;
    const titles = page.parts.map((p) => p.name + (p.variant ? ` (${p.variant})` : ''));
    void save(composed(picture.snapshot(), titles.join(' and '), colouring.title, colouring), `${titles[0]!.replaceAll(/[^\w-]+/g, '-')}.png`);
  };

  useEffect(() => {
    const pressedKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (/^(INPUT|SELECT|TEXTAREA)$/.test(target.tagName) || event.ctrlKey || event.metaKey || event.altKey || !picture) return;
      const v = latest.current;
      const inList = target.getAttribute('role') === 'button' || target.tagName === 'TR';
      const modes = modesOf(page.parts).map((m) => m.key);
      const next = <T,>(all: readonly T[], now: T, by = 1) => all[(all.indexOf(now) + by + all.length) % all.length]!;
      const look: Record<string, Vector> = { x: [1, 0, 0], X: [-1, 0, 0], y: [0, 1, 0], Y: [0, -1, 0], z: [0, 0, 1], Z: [0, 0, -1] };
      const at = look[event.key];
      const cutAxes = ['x', 'y', 'z', null] as const;
      const actions: Record<string, () => void> = {
        f: () => (picture.look(v.camera?.from ?? picture.now.from), set({ camera: picture.now })),
        ArrowLeft: () => picture.turn(-10, 0),
        ArrowRight: () => picture.turn(10, 0),
        ArrowUp: () => picture.turn(0, 10),
        ArrowDown: () => picture.turn(0, -10),
        '+': () => picture.zoom(1.25),
        '=': () => picture.zoom(1.25),
        '-': () => picture.zoom(0.8),
        '[': () => set(stepPly(page, v, -1)),
        ']': () => set(stepPly(page, v, 1)),
        o: () => set({ show: 'alone', ply: v.ply ?? page.parts[0]!.plies[0]!.id }),
        u: () => set({ show: 'upto', ply: v.ply ?? page.parts[0]!.plies[0]!.id }),
        p: () => set({ show: 'all' }),
        c: () => set({ colour: next(modes, v.colour) }),
        C: () => set({ colour: next(modes, v.colour, -1) }),
        a: () => set({ arrows: next<Arrows>(['none', 'zero', 'fibre', 'normal'], v.arrows) }),
        l: () => document.getElementById('layers')?.click(),
        k: () => {
          const axis = next(cutAxes, v.cut?.axis ?? null);
          set({ cut: axis ? { axis, at: v.cut?.at ?? 0.5, flipped: v.cut?.flipped ?? false } : null });
        },
        ',': () => v.cut && set({ cut: { ...v.cut, at: Math.max(0, v.cut.at - 0.01) } }),
        '.': () => v.cut && set({ cut: { ...v.cut, at: Math.min(1, v.cut.at + 0.01) } }),
        e: () => set({ lines: !v.lines }),
        m: () => setMeasuring((on) => !on),
        s: savePicture,
        '?': () => setHelp((on) => !on),
        Escape: () => {
          if (document.querySelector('.help')) setHelp(false);
          else set({ at: null, ply: null, show: 'all', zone: null, measure: [] });
          setMeasuring(false);
        },
      };
      if (inList && event.key.startsWith('Arrow')) return;
      if (at) {
        picture.look(at);
        set({ camera: picture.now });
      } else if (actions[event.key]) actions[event.key]!();
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', pressedKey);
    return () => window.removeEventListener('keydown', pressedKey);
  }, [picture]);

  // Paper has no canvas: it gets a picture of it.
  useEffect(() => {
    const before = () => {
      if (!picture) return;
      (document.getElementById('on-paper') as HTMLImageElement).src = picture.snapshot().toDataURL('image/png');
    };
    window.addEventListener('beforeprint', before);
    return () => window.removeEventListener('beforeprint', before);
  }, [picture]);

  // For scripts and tests: where an element is seen, in pixels of the window.
  useEffect(() => {
    Object.assign(window, {
      bordado: {
        view: () => latest.current,
        seenAt: (id: number, part = 0) => {
          const of = page.parts[part]!;
          const e = of.ids.indexOf(id);
          if (!picture || e < 0) return null;
          const [x, y] = picture.seenAt(part, e);
          const box = picture.canvas.getBoundingClientRect();
          return [box.left + x, box.top + y];
        },
        arrows: () => picture?.drawnArrows ?? 0,
        draw: () => picture?.draw(),
      },
    });
  }, [picture]);

  const part = page.parts[place?.part ?? side]!;
  const reduced = page.parts.filter((p) => p.count < p.elements);
  const distance = measured(view.measure);
  const tabs: [Tab, string][] = [
    ['place', 'Place'],
    ['plies', 'Plies'],
    ['zones', 'Zones'],
    ['findings', `Findings ${part.findings.filter((f) => f.severity !== 'note').length || ''}`.trim()],
    ...(page.comparison ? [['differences', 'Differences'] as [Tab, string]] : []),
  ];
  return (
    <div class="page">
      <header>
        <h1>
          {page.parts[0]!.name}
          {page.parts[0]!.variant && <span class="variant"> {page.parts[0]!.variant}</span>}
          {page.parts[1] && (
            <>
              {' '}
              and {page.parts[1].name}
              {page.parts[1].variant && <span class="variant"> {page.parts[1].variant}</span>}
            </>
          )}
        </h1>
        <p class="facts">
          {page.parts.length === 1 ? facts(page.parts[0]!) : 'turned and cut together'}
        </p>
        <div class="actions">
          <button type="button" title="All of the part  f" onClick={() => (picture?.look(picture.now.from), picture && set({ camera: picture.now }))}>
            Fit
          </button>
          {(['x', 'y', 'z'] as const).map((axis) => (
            <button
              type="button"
              title={`Look along ${axis}  ${axis}`}
              aria-label={`Look along ${axis}`}
              onClick={() => {
                picture?.look([0, 1, 2].map((k) => Number('xyz'[k] === axis)) as Vector);
                if (picture) set({ camera: picture.now });
              }}
            >
              {axis}
            </button>
          ))}
          <button type="button" class={measuring ? 'chosen' : ''} aria-pressed={measuring} title="Measure between two points  m" onClick={() => setMeasuring(!measuring)}>
            Measure
          </button>
          <button type="button" title="Save the picture  s" onClick={savePicture}>
            Picture
          </button>
          <button type="button" onClick={() => window.print()}>
            Print
          </button>
          <button type="button" aria-label="Keys" title="Keys  ?" onClick={() => setHelp(!help)}>
            ?
          </button>
        </div>
      </header>
      <Rail page={page} view={view} set={set}>
        {picture?.parts[0]!.colouring && (
          <LegendView
            of={picture.parts[0]!.colouring}
            layers={view.layers > 0 && view.colour !== 'bottom' && view.colour !== 'top'}
            zone={view.zone}
            onZone={(zone) => set({ zone: view.zone === zone ? null : zone })}
          />
        )}
      </Rail>
      <main
        ref={host}
        class={measuring ? 'measuring' : ''}
        onPointerDown={(e) => (pressed.current = [e.clientX, e.clientY])}
        onPointerUp={(e) => {
          const from = pressed.current;
          pressed.current = null;
          if (!from || e.button !== 0 || (e.target as HTMLElement).tagName !== 'CANVAS' || Math.hypot(e.clientX - from[0], e.clientY - from[1]) > 4) return;
          click(e.offsetX, e.offsetY);
        }}
        onPointerMove={over}
        onPointerLeave={() => (clearTimeout(hovering.current), picture?.hover(null), setPointed(''))}
      >
        {picture && <Overlay page={page} picture={picture} view={view} tags={names} place={place} drawn={drawn} />}
        {page.parts.length > 1 &&
          page.parts.map((p, i) => (
            <h2 class="pane" style={{ left: `${(100 * i) / page.parts.length}%` }}>
              {i === 0 ? 'first' : 'second'}: {p.name} {p.variant} <span class="faint">{number(p.mass)} kg</span>
            </h2>
          ))}
        {reduced.length > 0 && (
          <p class="notice" role="note">
            Drawn coarser: {reduced.map((p) => `${p.count.toLocaleString('en')} of ${p.elements.toLocaleString('en')} elements, points within ${number(p.cell, 2)} ${p.units.length} as one`).join('; ')}. Numbers are of the whole part.
          </p>
        )}
        {measuring && (
          <p class="notice" role="status">
            {distance
              ? `${number(distance.whole, 5)} ${page.parts[0]!.units.length} in a straight line; x ${number(distance.by[0])}, y ${number(distance.by[1])}, z ${number(distance.by[2])}`
              : view.measure.length === 1
                ? 'and the second point'
                : 'Click the first of two points'}
          </p>
        )}
        {help && (
          <section class="help" aria-label="Keys">
            <h2>Keys</h2>
            <dl>
              {keys.map(([key, what]) => (
                <>
                  <dt>{key}</dt>
                  <dd>{what}</dd>
                </>
              ))}
            </dl>
            <p class="faint">Mouse: left turns, right moves, wheel zooms; a click shows the laminate there. The address of this page holds what it shows. {page.madeBy}.</p>
          </section>
        )}
        <output class="pointed">{pointed}</output>
      </main>
      <img id="on-paper" alt="" />
      <aside aria-label="Details">
        {page.parts.length > 1 && (
          <div class="choice sides" role="radiogroup" aria-label="Part">
            {page.parts.map((p, i) => (
              <button type="button" role="radio" aria-checked={part === p} class={part === p ? 'chosen' : ''} onClick={() => (setSide(i), set({ at: null }))}>
                {i === 0 ? 'first' : 'second'} {p.variant || p.name}
              </button>
            ))}
          </div>
        )}
        <div class="tabs" role="tablist">
          {tabs.map(([key, label]) => (
            <button type="button" role="tab" id={`tab-${key}`} aria-selected={view.tab === key} aria-controls={`panel-${key}`} onClick={() => set({ tab: key })}>
              {label}
            </button>
          ))}
        </div>
        <section id="panel-place" role="tabpanel" aria-labelledby="tab-place" hidden={view.tab !== 'place'}>
          {place ? (
            <>
              <h2>
                Element {part.ids[place.element]!}{' '}
                <button type="button" class="link" onClick={() => picture?.goTo(place.part, place.element)}>
                  go there
                </button>
              </h2>
              <p class="code">{part.stacks[part.stackOf[place.element]!]!.code}</p>
              <p class="about">
                {number(part.stacks[part.stackOf[place.element]!]!.thickness)} {part.units.length} · {part.stacks[part.stackOf[place.element]!]!.plies.length} plies · {number(part.stacks[part.stackOf[place.element]!]!.mass, 3)} kg/m² · laminate {part.stackOf[place.element]! + 1}, section {part.sectionOf[place.element]! + 1}
              </p>
              <p class="about zones">
                {zonesAt(part, place.element).map((name) => (
                  <button type="button" class={view.zone === name ? 'chip chosen' : 'chip'} onClick={() => set({ zone: view.zone === name ? null : name })}>
                    {name}
                  </button>
                ))}
              </p>
              <StackDrawing part={part} element={place.element} ply={view.ply} onPly={(id) => set({ ply: view.ply === id ? null : id, show: view.show === 'all' ? 'alone' : view.show })} />
              <Reading part={part} element={place.element} />
              <Polar part={part} element={place.element} />
            </>
          ) : (
            <div class="hint">
              <p>Click a place to see its laminate: every layer to scale, A, B, D and what they mean, stiffness against direction.</p>
              <p>Drag to turn, right button to move, wheel to zoom; ? lists the keys.</p>
            </div>
          )}
        </section>
        <section id="panel-plies" role="tabpanel" aria-labelledby="tab-plies" hidden={view.tab !== 'plies'}>
          <h2 class="on-paper">Plies</h2>
          <PlyTable part={part} view={view} set={set} here={place?.element ?? null} />
        </section>
        <section id="panel-zones" role="tabpanel" aria-labelledby="tab-zones" hidden={view.tab !== 'zones'}>
          <h2 class="on-paper">Zones</h2>
          <ZoneTable part={part} view={view} set={set} at={place ? zonesAt(part, place.element) : []} />
        </section>
        <section id="panel-findings" role="tabpanel" aria-labelledby="tab-findings" hidden={view.tab !== 'findings'}>
          <h2 class="on-paper">Findings</h2>
          <FindingList findings={part.findings} onShow={(to) => show(to, page.parts.indexOf(part))} />
        </section>
        {page.comparison && (
          <section id="panel-differences" role="tabpanel" aria-labelledby="tab-differences" hidden={view.tab !== 'differences'}>
            <h2 class="on-paper">Differences</h2>
            <Differences page={page} comparison={page.comparison} view={view} set={set} />
          </section>
        )}
      </aside>
    </div>
  );
}

async function start() {
  const started = 0; // performance.now() counts from the opening of the page
  const host = document.getElementById('app')!;
  try {
    const data = document.getElementById('data')!;
    const page = await open(data.textContent!);
    data.remove();
    host.replaceChildren();
    render(<App page={page} started={started} />, host);
  } catch (trouble) {
    host.textContent = `This page cannot be shown: ${trouble instanceof Error ? trouble.message : String(trouble)}. It needs a browser of 2023 or later with WebGL 2.`;
    host.className = 'opening';
    throw trouble;
  }
}
void start();
