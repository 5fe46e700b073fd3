// What the keys do.

import { useEffect } from 'preact/hooks';
import { modesOf, plyIds } from './colouring';
import type { Page, Vector } from './data';
import { stepPly } from './rail';
import type { Picture } from './scene';
import type { Set } from './tables';
import type { Arrows, View } from './view';

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

export function Help(props: { madeBy: string }) {
  return (
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
      <p class="faint">
        Mouse: left turns, right moves, wheel zooms; a click shows the laminate there. The address of this page holds what it shows. {props.madeBy}.
      </p>
      <details>
        <summary>Licences of what this page is made with</summary>
        <pre>{(document.getElementById('licences') as HTMLTemplateElement).content.textContent}</pre>
      </details>
    </section>
  );
}

export interface Doing {
  page: Page;
  picture: Picture;
  /** As it is now. */
  view: () => View;
  set: Set;
  measure: (on: boolean | null) => void;
  help: (on: boolean | null) => void;
  save: () => void;
}

const next = <T,>(all: readonly T[], now: T, by = 1) => all[(all.indexOf(now) + by + all.length) % all.length]!;

const looks: Record<string, Vector> = { x: [1, 0, 0], X: [-1, 0, 0], y: [0, 1, 0], Y: [0, -1, 0], z: [0, 0, 1], Z: [0, 0, -1] };

export function lookAlong({ picture, set }: Pick<Doing, 'picture' | 'set'>, from: Vector) {
  picture.look(from);
  set({ camera: picture.now });
}

/** What each key does to the camera. */
function cameraKeys(d: Doing): Record<string, () => void> {
  const { picture, set } = d;
  const moved = (move: () => void) => () => {
    move();
    set({ camera: picture.now });
  };
  const nearer = moved(() => picture.zoom(1.25));
  const out: Record<string, () => void> = {
    f: () => lookAlong(d, picture.now.from),
    ArrowLeft: moved(() => picture.turn(-10, 0)),
    ArrowRight: moved(() => picture.turn(10, 0)),
    ArrowUp: moved(() => picture.turn(0, 10)),
    ArrowDown: moved(() => picture.turn(0, -10)),
    '+': nearer,
    '=': nearer,
    '-': moved(() => picture.zoom(0.8)),
  };
  for (const [key, from] of Object.entries(looks)) out[key] = () => lookAlong(d, from);
  return out;
}

/** And to what is shown. */
function viewKeys(d: Doing): Record<string, () => void> {
  const { page, set } = d;
  const v = d.view();
  const modes = modesOf(page.parts).map((m) => m.key);
  const first = plyIds(page.parts)[0]!;
  const moveCut = (by: number) => v.cut && set({ cut: { ...v.cut, at: Math.min(1, Math.max(0, v.cut.at + by)) } });
  return {
    '[': () => set(stepPly(page, v, -1)),
    ']': () => set(stepPly(page, v, 1)),
    o: () => set({ show: 'alone', ply: v.ply ?? first }),
    u: () => set({ show: 'upto', ply: v.ply ?? first }),
    p: () => set({ show: 'all' }),
    c: () => set({ colour: next(modes, v.colour) }),
    C: () => set({ colour: next(modes, v.colour, -1) }),
    a: () => set({ arrows: next<Arrows>(['none', 'zero', 'fibre', 'normal'], v.arrows) }),
    l: () => document.getElementById('layers')?.click(),
    k: () => {
      const axis = next(['x', 'y', 'z', null] as const, v.cut?.axis ?? null);
      set({ cut: axis ? { axis, at: v.cut?.at ?? 0.5, flipped: v.cut?.flipped ?? false } : null });
    },
    ',': () => moveCut(-0.01),
    '.': () => moveCut(0.01),
    e: () => set({ lines: !v.lines }),
    m: () => d.measure(null),
    s: d.save,
    '?': () => d.help(null),
    Escape: () => {
      if (document.querySelector('.help')) d.help(false);
      else set({ at: null, ply: null, show: 'all', zone: null, measure: [] });
      d.measure(false);
    },
  };
}

/** Listens while there is a picture. */
export function useKeys(doing: Doing | null) {
  useEffect(() => {
    if (!doing) return;
    const pressed = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (/^(INPUT|SELECT|TEXTAREA)$/.test(target.tagName) || event.ctrlKey || event.metaKey || event.altKey) return;
      const act = { ...cameraKeys(doing), ...viewKeys(doing) }[event.key];
      if (!act) return;
      act();
      event.preventDefault();
    };
    window.addEventListener('keydown', pressed);
    return () => window.removeEventListener('keydown', pressed);
  }, [doing]);
}
