// Failure envelopes of the laminate at the chosen place.

import * as Plot from '@observablehq/plot';
import { useEffect, useRef } from 'preact/hooks';
import { number } from './colours';
import { pointsOf, type Curve, type Part, type Piece } from './data';
import { caseOf } from './results';
import { forces } from './stress';
import type { Set } from './tables';
import type { View } from './view';

/** Told apart without colour, too. */
const looks = [
  { colour: '#1c4d8c', dash: '' },
  { colour: '#99331f', dash: '6 2' },
  { colour: '#2a7345', dash: '2 2' },
  { colour: '#855c10', dash: '8 2 2 2' },
  { colour: '#6b3380', dash: '4 4' },
  { colour: '#333333', dash: '1 2' },
];

export function EnvelopePanel(props: { part: Part; element: number; view: View; set: Set }) {
  const { part, element, view, set } = props;
  const host = useRef<HTMLDivElement>(null);
  const envelopes = part.envelopes;
  const section = part.sectionOf[element]!;
  const own = envelopes?.sections.find((s) => s.section === section);
  const pair = envelopes && view.pair < envelopes.pairs.length ? view.pair : 0;
  const curves = own?.curves.filter((c) => c.pair === pair) ?? [];
  const one = caseOf(part, view);
  const unit = (component: number) => (component < 3 ? part.units.line_force : part.units.force);
  const plies = part.stacks[part.stackOf[element]!]!.plies;
  const plyName = (layer: number) => {
    const ply = part.plies[plies[layer] ?? -1];
    return ply ? `${ply.id} ${number(ply.angle)}°` : `layer ${layer + 1}`;
  };
  /** Where a direction is open nothing fails, and no ply does. */
  const pieceName = (piece: Piece) => (piece[1] === null ? piece[2] : `${plyName(piece[1])}, ${piece[2]}`);
  const described = (c: Curve) =>
    pointsOf(envelopes!, c).map(([x, y], i) => {
      const piece = c.pieces.findLast((p) => p[0] <= i)!;
      return { x, y, criterion: c.criterion, open: piece[1] === null, what: pieceName(piece) };
    });
  useEffect(() => {
    if (!envelopes || curves.length === 0) return;
    const [first, second] = envelopes.pairs[pair]!;
    const lines = curves.map((c, i) => ({ points: described(c), look: looks[i % looks.length]! }));
    const all = lines.flatMap((l) => l.points);
    let here: { x: number; y: number }[] = [];
    if (one) {
      const { N, M } = forces(one, element);
      const six = [...N, ...M];
      here = [{ x: six[first]!, y: six[second]! }];
    }
    const plot = Plot.plot({
      width: 310,
      height: 270,
      marginLeft: 46,
      ariaLabel: `Failure envelope in ${envelopes.components[first]} and ${envelopes.components[second]}`,
      x: { label: `${envelopes.components[first]}, ${unit(first)}`, ticks: 5, tickFormat: (v: number) => number(v, 3), nice: true },
      y: { label: `${envelopes.components[second]}, ${unit(second)}`, ticks: 5, tickFormat: (v: number) => number(v, 3), nice: true },
      marks: [
        Plot.gridX({ ticks: 5, stroke: '#d3cdc1', strokeOpacity: 1 }),
        Plot.gridY({ ticks: 5, stroke: '#d3cdc1', strokeOpacity: 1 }),
        Plot.ruleX([0], { stroke: '#6b675f' }),
        Plot.ruleY([0], { stroke: '#6b675f' }),
        ...lines.map((l) => Plot.line(l.points.some((p) => p.open) ? [...l.points, l.points[0]!].map((p) => (p.open ? { ...p, y: NaN } : p)) : l.points, { x: 'x', y: 'y', stroke: l.look.colour, strokeWidth: 1.6, strokeDasharray: l.look.dash, curve: l.points.some((p) => p.open) ? 'linear' : 'linear-closed' })),
        Plot.dot(here, { x: 'x', y: 'y', r: 4, fill: '#22262b', stroke: '#fff' }),
        Plot.tip(all, Plot.pointer({ x: 'x', y: 'y', title: (p: (typeof all)[number]) => `${p.criterion}: ${p.what}\n${number(p.x)}, ${number(p.y)}` })),
      ],
    });
    host.current!.replaceChildren(plot);
    return () => plot.remove();
  }, [part, element, pair, one]);
  if (!envelopes) return null;
  return (
    <figure class="envelope" data-envelope={own ? pair : 'none'}>
      <figcaption>
        First failure {own && 'in '}
        {own && <select aria-label="Components of the envelope" value={pair} onChange={(e) => set({ pair: Number(e.currentTarget.value) })}>
          {envelopes.pairs.map(([a, b], i) => (
            <option value={i}>
              {envelopes.components[a]!} and {envelopes.components[b]!}
            </option>
          ))}
        </select>}
      </figcaption>
      {!own && <p class="about">The page carries envelopes of {envelopes.sections.length} of {part.sections.length} sections, those with the most area and those of the worst places; this is none of them: bordado at … --element {part.ids[element]!} --envelope FILE draws it.</p>}
      {own && curves.length === 0 && <p class="about">Nothing fails by these, or no strength is known.</p>}
      <div ref={host} hidden={curves.length === 0} />
      {curves.length > 0 && (
        <>
          <ul class="key">
            {curves.map((c, i) => (
              <li>
                <svg width="26" height="8">
                  <path d="M0 4H26" stroke={looks[i % looks.length]!.colour} stroke-width="1.6" stroke-dasharray={looks[i % looks.length]!.dash} />
                </svg>{' '}
                {c.criterion}
              </li>
            ))}
          </ul>
          {curves.map((c) => (
            <p class="about" data-pieces={c.criterion}>
              {c.criterion}: {[...new Set(c.pieces.map(pieceName))].join('; ')}
            </p>
          ))}
          <p class="about">
            The other components are nought{one ? `; the dot is what ${one.name} brings here, the others left out` : ''}. Inside the lines no ply fails.
          </p>
        </>
      )}
    </figure>
  );
}
