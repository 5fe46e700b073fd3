// The middle of the page: the picture, what lies over it, and the mouse.

import type { RefObject } from 'preact';
import { useEffect, useRef, useState } from 'preact/hooks';
import { number } from './colours';
import type { Page, Vector } from './data';
import { measured, Overlay } from './overlay';
import type { Hit, Picture } from './scene';
import { zonesAt } from './stack';
import { tags, type Tag } from './tags';
import type { View } from './view';

/** Names of regions, once the picture has come to rest. */
function useNames(page: Page, picture: Picture | null, view: View, size: string): Tag[] {
  const [names, setNames] = useState<Tag[]>([]);
  useEffect(() => {
    if (!picture) return;
    setNames([]);
    if (view.colour === 'side') return;
    const timer = setTimeout(() => {
      const w = picture.canvas.clientWidth / page.parts.length;
      const h = picture.canvas.clientHeight;
      const scale = 4; // pixels of the page in one of the grid
      const columns = Math.ceil(w / scale);
      setNames(
        page.parts.flatMap((_, i) => {
          const { colouring } = picture.parts[i]!;
          const ids = picture.ids(i, columns, Math.ceil(h / scale));
          return tags(ids, columns, colouring.category, colouring.tag, scale).map((t) => ({ ...t, x: t.x + i * w }));
        }),
      );
    }, 220);
    return () => clearTimeout(timer);
  }, [picture, view.colour, view.ply, view.show, view.zone, view.cut, view.layers, view.camera, size]);
  return names;
}

/** What lies under the mouse, in words. */
function described(page: Page, picture: Picture, hit: Hit): string {
  const part = page.parts[hit.part]!;
  const { code } = part.stacks[part.stackOf[hit.element]!]!;
  const coloured = picture.parts[hit.part]!.colouring.text(hit.element);
  return [`element ${part.ids[hit.element]!}`, coloured, coloured.includes(code) ? '' : code, zonesAt(part, hit.element).join(', ')]
    .filter(Boolean)
    .join(' · ');
}

function Notices(props: { page: Page; view: View; measuring: boolean }) {
  const { page, view } = props;
  const reduced = page.parts.filter((p) => p.count < p.elements);
  const distance = measured(view.measure as Vector[]);
  const { length } = page.parts[0]!.units;
  return (
    <>
      {reduced.length > 0 && (
        <p class="notice" role="note">
          Drawn coarser:{' '}
          {reduced
            .map((p) => `${p.count.toLocaleString('en')} of ${p.elements.toLocaleString('en')} elements, points within ${number(p.cell, 2)} ${p.units.length} as one`)
            .join('; ')}
          . Numbers are of the whole part.
        </p>
      )}
      {props.measuring && (
        <p class="notice" role="status">
          {distance
            ? `${number(distance.whole, 5)} ${length} in a straight line; x ${number(distance.by[0])}, y ${number(distance.by[1])}, z ${number(distance.by[2])}`
            : view.measure.length === 1
              ? 'and the second point'
              : 'Click the first of two points'}
        </p>
      )}
    </>
  );
}

export function Canvas(props: {
  page: Page;
  host: RefObject<HTMLDivElement | null>;
  picture: Picture | null;
  view: View;
  place: { part: number; element: number } | null;
  measuring: boolean;
  /** Grows with every picture. */
  drawn: number;
  size: string;
  onClick: (hit: Hit | null) => void;
}) {
  const { page, picture, view, measuring } = props;
  const names = useNames(page, picture, view, props.size);
  const [pointed, setPointed] = useState('');
  const pressed = useRef<[number, number] | null>(null);
  const hovering = useRef(0);
  const leave = () => {
    clearTimeout(hovering.current);
    picture?.hover(null);
    setPointed('');
  };
  const over = (event: PointerEvent) => {
    clearTimeout(hovering.current);
    if (event.buttons !== 0 || !picture || (event.target as HTMLElement).tagName !== 'CANVAS') return;
    const { offsetX, offsetY } = event;
    hovering.current = window.setTimeout(() => {
      const hit = picture.pick(offsetX, offsetY);
      picture.hover(hit);
      setPointed(hit ? described(page, picture, hit) : '');
    }, 40);
  };
  // A click is a press and a release at one place; a turn is not.
  const released = (event: PointerEvent) => {
    const from = pressed.current;
    pressed.current = null;
    if (!from || event.button !== 0 || (event.target as HTMLElement).tagName !== 'CANVAS') return;
    if (Math.hypot(event.clientX - from[0], event.clientY - from[1]) <= 4) props.onClick(picture?.pick(event.offsetX, event.offsetY) ?? null);
  };
  return (
    <main
      ref={props.host}
      class={measuring ? 'measuring' : ''}
      onPointerDown={(e) => {
        pressed.current = [e.clientX, e.clientY];
      }}
      onPointerUp={released}
      onPointerMove={over}
      onPointerLeave={leave}
    >
      {picture && <Overlay page={page} picture={picture} view={view} tags={names} place={props.place} drawn={props.drawn} />}
      {page.parts.length > 1 &&
        page.parts.map((p, i) => (
          <h2 class="pane" style={{ left: `${(100 * i) / page.parts.length}%` }}>
            {i === 0 ? 'first' : 'second'}: {p.name} {p.variant} <span class="faint">{number(p.mass)} kg</span>
          </h2>
        ))}
      <Notices page={page} view={view} measuring={measuring} />
      <output class="pointed">{pointed}</output>
    </main>
  );
}
