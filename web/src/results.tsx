// What the solver answered: the part as it moves, worst places, stresses through the thickness.

import { css, direction, number } from './colours';
import type { Part, Shows } from './data';
import { coreColour } from './stack';
import { forces, statesAt, type State } from './stress';
import { onEnter, type Set } from './tables';
import type { View } from './view';

/** The case whose stresses are shown: the one chosen, or the first. */
export function caseOf(part: Part, view: View) {
  const cases = part.results?.cases ?? [];
  return cases.find((c) => c.name === view.case) ?? cases[0] ?? null;
}
export const shapeOf = (part: Part, view: View) => part.results?.shapes.find((s) => s.name === view.shape) ?? null;

/** By what a shape is multiplied so that it is seen: a tenth of the part. */
export function suggestedScale(part: Part, name: string): number {
  const shape = part.results?.shapes.find((s) => s.name === name);
  const size = Math.hypot(...part.high.map((v, k) => v - part.low[k]!));
  return shape && shape.largest > 0 ? Number(((0.1 * size) / shape.largest).toPrecision(2)) : 1;
}

/** Which shape, by how much, and whether it moves. */
export function ShapeChoice(props: { part: Part; view: View; set: Set }) {
  const { part, view, set } = props;
  const results = part.results;
  if (!results || results.shapes.length === 0) return null;
  const shape = shapeOf(part, view);
  const most = shape ? 4 * suggestedScale(part, shape.name) : 1;
  return (
    <fieldset>
      <legend>As it moves</legend>
      <select
        id="shape"
        aria-label="Case or mode"
        value={shape?.name ?? ''}
        onChange={(e) => {
          const name = e.currentTarget.value || null;
          set({ shape: name, scale: name ? suggestedScale(part, name) : 1, moving: name ? results.shapes.find((s) => s.name === name)!.mode : false });
        }}
      >
        <option value="">as it was made</option>
        {results.shapes.map((s) => (
          <option value={s.name}>{s.name}</option>
        ))}
      </select>
      {shape && (
        <>
          <input type="range" id="scale" aria-label="Times" min="0" max="1000" value={(1000 * view.scale) / most} onInput={(e) => set({ scale: Number(((most * Number(e.currentTarget.value)) / 1000).toPrecision(3)) })} />
          <p class="about">{shape.mode ? 'of no size of its own' : `× ${number(view.scale)}; largest ${number(shape.largest)} ${part.units.length}`}</p>
          <label class="line">
            <input type="checkbox" id="moving" checked={view.moving} onChange={(e) => set({ moving: e.currentTarget.checked })} /> moving
          </label>
        </>
      )}
    </fieldset>
  );
}

/** Which case and face stresses are of. */
export function StressChoice(props: { part: Part; view: View; set: Set }) {
  const { part, view, set } = props;
  const cases = part.results?.cases ?? [];
  if (cases.length === 0 || !view.colour.startsWith('stress:')) return null;
  return (
    <fieldset>
      <legend>Stress</legend>
      {cases.length > 1 && (
        <select id="case" aria-label="Case" value={caseOf(part, view)!.name} onChange={(e) => set({ case: e.currentTarget.value })}>
          {cases.map((c) => (
            <option value={c.name}>{c.name}</option>
          ))}
        </select>
      )}
      <div class="choice" role="radiogroup" aria-label="Face of the ply">
        {(['bottom', 'middle', 'top'] as const).map((face, i) => (
          <button type="button" role="radio" aria-checked={view.face === i} class={view.face === i ? 'chosen' : ''} data-choice={`face-${face}`} onClick={() => set({ face: i as 0 | 1 | 2 })}>
            {face}
          </button>
        ))}
      </div>
      <p class="about">{view.ply === null ? 'of the last laid ply: choose one above' : `of ply ${view.ply}, in its own axes`}</p>
    </fieldset>
  );
}

/** The worst places; each leads to the picture. */
export function WorstTable(props: { part: Part; view: View; set: Set; onShow: (shows: Shows) => void }) {
  const { part, view, set } = props;
  const worst = part.results!.worst;
  if (worst.length === 0) return <p class="hint">Nothing fails by the criteria that were asked, or no strength is known.</p>;
  return (
    <>
      <p class="hint">By what the loads may be multiplied until it fails; the least of each ply, way of failing and laminate. Choose one to see it.</p>
      <table class="list">
        <thead>
          <tr>
            <th scope="col" class="number">reserve</th>
            <th scope="col">fails</th>
            <th scope="col">ply</th>
            <th scope="col">at</th>
            <th scope="col">case</th>
          </tr>
        </thead>
        <tbody>
          {worst.map((w) => {
            const id = part.plies[w.ply]!.id;
            const choose = () => {
              set({ case: w.case });
              props.onShow({ element: w.element });
            };
            const chosen = view.at?.element === part.ids[w.element];
            return (
              <tr tabIndex={0} data-worst={id} class={chosen ? 'chosen' : ''} aria-selected={chosen} onClick={choose} onKeyDown={onEnter(choose)} title={`by ${w.criterion}, element ${part.ids[w.element]!}${w.doubtful ? `; ${w.doubt}, where stresses of plies do not hold` : ''}`}>
                <td class="number">
                  <b>{number(w.factor)}</b>
                  {w.doubtful ? ' ?' : ''}
                </td>
                <td class="wraps">{w.mode}</td>
                <td>{id}</td>
                <td>{w.place}</td>
                <td>{w.case}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {worst.some((w) => w.doubtful) && <p class="about">? beside a step of thickness, at a point force or at a point that is held, where stresses of plies do not hold</p>}
    </>
  );
}

const titles = [
  ['s1', 'along the fibres'],
  ['s2', 'across them'],
  ['t12', 'in the plane'],
  ['t13', 'through'],
  ['t23', 'through'],
] as const;

/** Every stress through the thickness with the plies behind, and the forces that caused it. */
export function StressPanel(props: { part: Part; element: number; view: View; set: Set }) {
  const { part, element, view, set } = props;
  const one = caseOf(part, view);
  if (!one) return null;
  const states = statesAt(part, element, one);
  const { N, M, Q } = forces(one, element);
  const stack = part.stacks[part.stackOf[element]!]!;
  const section = part.sections[part.sectionOf[element]!]!;
  const low = states[0]!.z;
  const high = states[states.length - 1]!.z;
  const [top, height, wide, gap] = [18, 190, 62, 8];
  const y = (z: number) => top + height - ((z - low) / (high - low)) * height;
  const reserve = part.results!.reserve[element]!;
  const cases = part.results!.cases;
  const list = (v: number[]) => v.map((n) => number(n, 3)).join('  ');
  const value = (s: State, k: number) => (k < 3 ? s.stress[k]! : s.shear[k - 3]!);
  return (
    <>
      <h3>
        Stresses <span class="faint">{part.units.stress}, in ply axes</span>{' '}
        {cases.length > 1 ? (
          <select aria-label="Case of the stresses" value={one.name} onChange={(e) => set({ case: e.currentTarget.value })}>
            {cases.map((c) => (
              <option value={c.name}>{c.name}</option>
            ))}
          </select>
        ) : (
          <span class="faint">{one.name}</span>
        )}
      </h3>
      {Number.isFinite(reserve) && (
        <p class="about">
          least reserve here {number(reserve)}: {part.results!.criteria[part.results!.criterion[element]! - 1]}, ply {part.plies[part.results!.ply[element]! - 1]!.id}
        </p>
      )}
      <svg class="stresses" viewBox={`0 0 ${5 * (wide + gap)} ${top + height + 26}`} width="100%" role="img" aria-label="Stresses through the thickness">
        {titles.map(([name, meaning], k) => {
          const left = k * (wide + gap);
          const all = states.map((s) => value(s, k));
          const [least, most] = [Math.min(0, ...all), Math.max(0, ...all)];
          const span = most - least || 1;
          const x = (v: number) => left + 4 + ((v - least) / span) * (wide - 8);
          const points: string[] = [];
          for (let i = 0; i + 2 < states.length; i += 3) {
            const [a, b, c] = [0, 1, 2].map((j) => value(states[i + j]!, k)) as [number, number, number];
            for (let step = 0; step <= 8; step++) {
              const u = step / 8;
              const v = a * (1 - u) * (1 - 2 * u) + b * 4 * u * (1 - u) + c * u * (2 * u - 1);
              points.push(`${x(v).toFixed(2)},${y(states[i]!.z + u * (states[i + 2]!.z - states[i]!.z)).toFixed(2)}`);
            }
          }
          const shown = (v: number) => number(Math.abs(v) < 1e-7 * span ? 0 : v, 3);
          return (
            <g data-stress={name}>
              <text x={left} y={8} font-weight="600">
                {name}
              </text>
              <text class="faint" x={left} y={15}>
                {meaning}
              </text>
              {stack.plies.map((p, i) => (
                <rect x={left} y={y(states[3 * i + 2]!.z)} width={wide} height={y(states[3 * i]!.z) - y(states[3 * i + 2]!.z)} fill={css(part.materials[part.plies[p]!.material]!.core ? coreColour : direction(section.angles[i] ?? 0))} opacity="0.35" stroke="#fff" stroke-width="0.5" />
              ))}
              <line x1={x(0)} x2={x(0)} y1={top} y2={top + height} stroke="#777" stroke-width="0.6" />
              <polyline points={points.join(' ')} fill="none" stroke="#993322" stroke-width="1.6" />
              <text class="faint" x={left} y={top + height + 9}>
                {shown(least)}
              </text>
              <text class="faint" x={left + wide} y={top + height + 9} text-anchor="end">
                {shown(most)}
              </text>
            </g>
          );
        })}
      </svg>
      <p class="about">
        N {list(N)} {part.units.line_force} · M {list(M)} {part.units.force} · Q {list(Q)} {part.units.line_force}; x, y, xy of the section, about the mesh
        {part.results!.solids ? '. Worked out from the plane through the strains of its solids; reserves, and what bordado stress tells, are of each solid.' : ''}
        {stack.thicknesses ? '. Where edges of plies cross an element these are the stresses of smeared plies; reserves are of its true pieces.' : ''}
      </p>
    </>
  );
}
