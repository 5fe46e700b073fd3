// The review page.

import { render } from 'preact';
import { useEffect, useMemo, useRef, useState } from 'preact/hooks';
import { Canvas } from './canvas';
import { modesOf } from './colouring';
import { open, type Page, type Shows, pointsOf } from './data';
import { Details } from './details';
import { composed, save } from './export';
import { Head } from './head';
import { Help, lookAlong, useKeys, type Doing } from './keys';
import { LegendView } from './legend';
import { Rail } from './rail';
import { Picture, type Hit } from './scene';
import { fromFragment, plain, toFragment, type View } from './view';

/** How a page opens: one with results on the reserves. */
const openingOf = (page: Page): View =>
  page.parts.some((p) => p.results && p.results.worst.length > 0) ? { ...plain, colour: 'reserve', tab: 'results' } : plain;

/** A view without what this page does not have. */
function known(page: Page, view: View): View {
  const has = (all: { id?: string; name?: string }[], name: string) => all.some((x) => (x.id ?? x.name) === name);
  return {
    ...view,
    colour: modesOf(page.parts).some((m) => m.key === view.colour) ? view.colour : plain.colour,
    ply: view.ply !== null && page.parts.some((p) => has(p.plies, view.ply!)) ? view.ply : null,
    show: view.ply !== null && page.parts.some((p) => has(p.plies, view.ply!)) ? view.show : 'all',
    shape: page.parts.some((p) => p.results?.shapes.some((s) => s.name === view.shape)) ? view.shape : null,
    zone: view.zone !== null && page.parts.some((p) => has(p.zones, view.zone!)) ? view.zone : null,
    tab:
      (view.tab === 'differences' && !page.comparison) ||
      (view.tab === 'cloth' && page.parts.every((p) => p.cloths.length === 0)) ||
      (view.tab === 'results' && page.parts.every((p) => !p.results)) || (view.tab === 'ramps' && page.parts.every((p) => p.ramps.length + p.profiles.length === 0))
        ? 'place'
        : view.tab,
  };
}

interface Stage {
  picture: Picture | null;
  /** Grows with every picture; width and height of the canvas. */
  drawn: number;
  size: string;
}

/** The picture, made once; it tells when it has drawn, come to rest, or changed its size. */
function useStage(page: Page, host: { current: HTMLDivElement | null }, first: View, onCamera: (camera: View['camera']) => void): Stage {
  const [stage, setStage] = useState<Stage>({ picture: null, drawn: 0, size: '' });
  useEffect(() => {
    const picture = new Picture(page, host.current!);
    if (first.camera) picture.set(first.camera);
    picture.onDrawn = () => setStage((s) => ({ ...s, drawn: s.drawn + 1 }));
    picture.onResize = (w, h) => setStage((s) => ({ ...s, size: `${w} ${h}` }));
    picture.onCamera = () => onCamera(picture.now);
    setStage((s) => ({ ...s, picture }));
  }, []);
  return stage;
}

/** The view in the address of the page, and what is asked for there. */
function useLink(view: View, ready: boolean, restore: (view: View) => void, page: Page) {
  useEffect(() => {
    if (!ready) return;
    const timer = setTimeout(() => history.replaceState(null, '', `#${toFragment(view, openingOf(page))}`), 120);
    return () => clearTimeout(timer);
  }, [ready, view]);
  useEffect(() => {
    const changed = () => restore(known(page, fromFragment(location.hash, openingOf(page))));
    window.addEventListener('hashchange', changed);
    return () => window.removeEventListener('hashchange', changed);
  }, [ready]);
}

/** Paper has no canvas: it gets a picture of it. */
function usePaper(picture: Picture | null) {
  useEffect(() => {
    if (!picture) return;
    const before = () => {
      (document.getElementById('on-paper') as HTMLImageElement).src = picture.snapshot().toDataURL('image/png');
    };
    window.addEventListener('beforeprint', before);
    return () => window.removeEventListener('beforeprint', before);
  }, [picture]);
}

function savePicture(page: Page, picture: Picture) {
  const { colouring } = picture.parts[0]!;
  const titles = page.parts.map((p) => p.name + (p.variant ? ` (${p.variant})` : ''));
  void save(composed(picture.snapshot(), titles.join(' and '), colouring.title, colouring), `${titles[0]!.replaceAll(/[^\w-]+/g, '-')}.png`);
}

/** For scripts and tests. */
function expose(page: Page, picture: Picture, view: () => View) {
  Object.assign(window, {
    bordado: {
      view,
      /** Where an element is seen, in pixels of the window. */
      seenAt: (id: number, part = 0) => {
        const element = page.parts[part]!.ids.indexOf(id);
        if (element < 0) return null;
        const [x, y] = picture.seenAt(part, element);
        const box = picture.canvas.getBoundingClientRect();
        return [box.left + x, box.top + y];
      },
      arrows: () => picture.drawnArrows,
      /** Failure envelopes of the laminate on an element: criterion, components, points. */
      envelopes: (id: number, part = 0) => {
        const of = page.parts[part]!;
        const all = of.envelopes;
        const own = all?.sections.find((s) => s.section === of.sectionOf[of.ids.indexOf(id)]);
        return own?.curves.map((c) => ({
          criterion: c.criterion,
          pair: c.pair,
          points: pointsOf(all!, c),
        }));
      },
      draw: () => picture.draw(),
    },
  });
}

function App(props: { page: Page }) {
  const { page } = props;
  const host = useRef<HTMLDivElement>(null);
  const [view, setView] = useState<View>(() => known(page, fromFragment(location.hash, openingOf(page))));
  const [measuring, setMeasuring] = useState(false);
  const [help, setHelp] = useState(false);
  const [side, setSide] = useState(0);
  const latest = useRef(view);
  latest.current = view;
  const set = (change: Partial<View>) => setView((v) => ({ ...v, ...change }));
  const { picture, drawn, size } = useStage(page, host, view, (camera) => set({ camera }));
  useLink(
    view,
    picture !== null,
    (next) => {
      if (next.camera) picture?.set(next.camera);
      setView(next);
    },
    page,
  );
  usePaper(picture);
  const place = useMemo(() => {
    const element = picture && view.at ? picture.elementOf(view.at) : -1;
    return element < 0 ? null : { part: view.at!.part, element };
  }, [picture, view.at?.part, view.at?.element]);
  useEffect(() => {
    picture?.show(view);
    picture?.select(place);
  }, [picture, view, place]);
  useEffect(() => {
    if (!picture) return;
    expose(page, picture, () => latest.current);
    picture.draw();
    document.body.dataset['ready'] = String(Math.round(performance.now())); // since the page was opened
  }, [picture]);
  const doing = useMemo<Doing | null>(
    () =>
      picture && {
        page,
        picture,
        view: () => latest.current,
        set,
        measure: (on) => setMeasuring((now) => on ?? !now),
        help: (on) => setHelp((now) => on ?? !now),
        save: () => savePicture(page, picture),
      },
    [picture],
  );
  useKeys(doing);

  const show = (to: Shows, part: number) => {
    const of = page.parts[part]!;
    if (to.element !== undefined) {
      set({ at: { part, element: of.ids[to.element]! }, zone: null, show: 'all' });
      picture?.goTo(part, to.element);
    } else if (to.ply !== undefined) set({ ply: of.plies[to.ply]!.id, show: 'alone', zone: null });
    else if (to.zone !== undefined) set({ zone: of.zones[to.zone]!.name });
  };
  const click = (hit: Hit | null) => {
    if (!measuring) set({ at: hit && { part: hit.part, element: page.parts[hit.part]!.ids[hit.element]! }, ...(hit && view.tab !== 'plies' && view.tab !== 'zones' && view.tab !== 'cloth' && view.tab !== 'results' ? { tab: 'place' } : {}) });
    else if (hit) set({ measure: view.measure.length >= 2 ? [hit.point] : [...view.measure, hit.point] });
  };
  const colouring = picture?.parts[0]!.colouring;
  return (
    <div class="page">
      <Head
        page={page}
        measuring={measuring}
        onFit={() => doing && lookAlong(doing, doing.picture.now.from)}
        onLook={(from) => doing && lookAlong(doing, from)}
        onMeasure={() => setMeasuring(!measuring)}
        onSave={() => doing?.save()}
        onHelp={() => setHelp(!help)}
      />
      <Rail page={page} view={view} set={set}>
        {colouring && (
          <LegendView
            of={colouring}
            layers={view.layers > 0 && view.colour !== 'bottom' && view.colour !== 'top'}
            zone={view.zone}
            onZone={(zone) => set({ zone: view.zone === zone ? null : zone })}
          />
        )}
      </Rail>
      <Canvas page={page} host={host} picture={picture} view={view} place={place} measuring={measuring} drawn={drawn} size={size} onClick={click} />
      {help && <Help madeBy={page.madeBy} />}
      <img id="on-paper" alt="" />
      <Details
        page={page}
        part={page.parts[place?.part ?? side]!}
        place={place}
        view={view}
        set={set}
        onSide={(part) => {
          setSide(part);
          set({ at: null });
        }}
        onShow={show}
        goThere={() => place && picture?.goTo(place.part, place.element)}
      />
    </div>
  );
}

async function start() {
  const host = document.getElementById('app')!;
  try {
    const data = document.getElementById('data')!;
    const page = await open(data.textContent!);
    data.remove();
    host.replaceChildren();
    render(<App page={page} />, host);
  } catch (trouble) {
    host.textContent = `This page cannot be shown: ${trouble instanceof Error ? trouble.message : String(trouble)}. It needs a browser of 2023 or later with WebGL 2.`;
    host.className = 'opening';
    throw trouble;
  }
}
void start();
