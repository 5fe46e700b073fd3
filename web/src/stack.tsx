// The laminate at one place: drawn to scale, as matrices with their meaning, against direction.

import * as Plot from '@observablehq/plot';
import { useEffect, useRef } from 'preact/hooks';
import { css, direction, number } from './colours';
import { inZone, matrices, type Part } from './data';

const coreColour: [number, number, number] = [236, 224, 186];

/** Heights for labels that want to stand at `wanted` (ascending), at least `gap` apart, each as near as that allows. */
export function spreadLabels(wanted: number[], gap: number): number[] {
  const groups: { sum: number; count: number }[] = [];
  for (const w of wanted) {
    groups.push({ sum: w, count: 1 });
    for (;;) {
      const last = groups[groups.length - 1]!;
      const before = groups[groups.length - 2];
      if (!before || last.sum / last.count >= before.sum / before.count + gap * before.count) break;
      before.sum += last.sum - gap * before.count * last.count;
      before.count += last.count;
      groups.pop();
    }
  }
  return groups.flatMap((g) => Array.from({ length: g.count }, (_, i) => g.sum / g.count + gap * i));
}

export function StackDrawing(props: {
  part: Part;
  element: number;
  ply: string | null;
  onPly: (id: string) => void;
}) {
  const { part, element, ply } = props;
  const stack = part.stacks[part.stackOf[element]!]!;
  const section = part.sections[part.sectionOf[element]!]!;
  const count = stack.plies.length;
  const gap = Math.max(11, Math.min(17, 300 / count));
  const size = Math.min(11.5, gap - 0.5);
  const height = Math.max(count * gap, Math.min(280, 30 * count));
  const [top, left, bar, width] = [20, 46, 74, 340];
  const scale = height / section.thickness;
  let z = section.bottom;
  const layers = stack.plies.map((p, i) => {
    const low = z;
    z += part.plies[p]!.thickness;
    return { ply: part.plies[p]!, angle: section.angles[i]!, low, high: z };
  });
  const y = (at: number) => top + height - (at - section.bottom) * scale;
  // From the top down, as labels are spread.
  const order = [...layers.keys()].reverse();
  const wanted = order.map((i) => y((layers[i]!.low + layers[i]!.high) / 2));
  const spread = spreadLabels(wanted, gap);
  const shift = Math.max(0, gap / 2 - spread[0]! + top - gap / 2);
  const places = new Map(order.map((layer, i) => [layer, spread[i]! + shift]));
  const total = Math.max(top + height, ...places.values()) + 26;
  let last = Infinity;
  const heights = [...layers.map((l) => l.low), section.bottom + section.thickness].filter((at, i, all) => {
    const face = i === 0 || i === all.length - 1;
    if (!face && (last - y(at) < 12 || y(at) - y(all[all.length - 1]!) < 12)) return false;
    last = y(at);
    return true;
  });
  const clean = (v: number) => (Math.abs(v) < 1e-9 * section.thickness ? 0 : v);
  return (
    <svg class="stack" viewBox={`0 0 ${width} ${total}`} width="100%" role="img" aria-label={`Stack ${stack.code}, from the top down`}>
      <defs>
        <pattern id="cells" width="7" height="7" patternUnits="userSpaceOnUse">
          <circle cx="3.5" cy="3.5" r="1.9" fill="none" stroke="#6d5f33" stroke-width="0.8" />
        </pattern>
      </defs>
      <text class="faint" x={left - 5} y={11} text-anchor="end">
        z {part.units.length}
      </text>
      <text class="faint" x={left + bar + 54} y={11} text-anchor="end">
        angle
      </text>
      <text class="faint" x={left + bar + 61} y={11}>
        ply
      </text>
      <text class="faint" x={left + bar + 112} y={11}>
        material
      </text>
      <text class="faint" x={width - 2} y={11} text-anchor="end">
        t {part.units.length}
      </text>
      {layers.map((l, i) => {
        const material = part.materials[l.ply.material]!;
        const tall = (l.high - l.low) * scale;
        const middle = y((l.low + l.high) / 2);
        const at = places.get(i)!;
        const chosen = l.ply.id === ply;
        const reach = Math.min(0.42 * tall, 9);
        const [dx, dy] = [reach * Math.cos((l.angle * Math.PI) / 180), reach * Math.sin((l.angle * Math.PI) / 180)];
        const fillColour = material.core ? coreColour : direction(l.angle);
        const light = 0.3 * fillColour[0] + 0.6 * fillColour[1] + 0.1 * fillColour[2] < 120;
        return (
          <g
            class={chosen ? 'layer chosen' : 'layer'}
            tabIndex={0}
            role="button"
            data-ply={l.ply.id}
            aria-label={`ply ${l.ply.id}, ${number(l.angle)} degrees, ${material.name}, ${number(l.ply.thickness)} ${part.units.length}, z ${number(clean(l.low))} to ${number(clean(l.high))}`}
            onClick={() => props.onPly(l.ply.id)}
            onKeyDown={(event) => event.key === 'Enter' && props.onPly(l.ply.id)}
          >
            <title>
              z from {number(clean(l.low))} to {number(clean(l.high))} {part.units.length}
            </title>
            <rect x={left} y={y(l.high)} width={bar} height={tall} fill={css(fillColour)} stroke="#22262b" stroke-width={tall > 3 ? 0.7 : 0.3} />
            {material.core && <rect x={left} y={y(l.high)} width={bar} height={tall} fill="url(#cells)" />}
            {!material.core && reach > 1.6 &&
              [-24, 0, 24].map((x) => (
                <line
                  x1={left + bar / 2 + x - dx}
                  y1={middle + dy}
                  x2={left + bar / 2 + x + dx}
                  y2={middle - dy}
                  stroke={light ? '#fff' : '#22262b'}
                  stroke-width="1.1"
                />
              ))}
            <path d={`M${left + bar} ${middle}L${left + bar + 12} ${at}`} stroke="#b9b3a7" fill="none" />
            <rect class="back" x={left + bar + 14} y={at - gap / 2} width={width - left - bar - 14} height={gap} />
            <g style={{ fontSize: `${size}px` }}>
              <text class="angle" x={left + bar + 54} y={at + 0.36 * size} text-anchor="end">
                {number(l.angle)}°
              </text>
              <text x={left + bar + 61} y={at + 0.36 * size}>
                {l.ply.id}
              </text>
              <text x={left + bar + 112} y={at + 0.36 * size}>
                {material.name.length > 17 ? `${material.name.slice(0, 16)}…` : material.name}
              </text>
              <text x={width - 2} y={at + 0.36 * size} text-anchor="end">
                {number(l.ply.thickness)}
              </text>
            </g>
          </g>
        );
      })}
      {heights.map((at) => (
        <g>
          <path d={`M${left - 4} ${y(at)}H${left}`} stroke="#22262b" />
          <text x={left - 6} y={y(at) + 3.5} text-anchor="end" style={{ fontSize: '10px' }}>
            {number(clean(at))}
          </text>
        </g>
      ))}
      <path d={`M${left - 4} ${y(0)}H${left + bar + 6}`} class="mesh" />
      <text class="faint" x={left} y={total - 5}>
        bottom: first laid, on the tool. Dashed: the mesh
      </text>
    </svg>
  );
}

/** 1 / (h d) of a compliance for a strip along a direction; turned as stresses and strains are. */
function along(compliance: number[][], degrees: number, scale: number): number {
  const c = Math.cos((degrees * Math.PI) / 180);
  const s = Math.sin((degrees * Math.PI) / 180);
  const pull = [c * c, s * s, c * s];
  let sum = 0;
  for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) sum += pull[i]! * compliance[i]![j]! * pull[j]!;
  return 1 / (scale * sum);
}

export function Polar(props: { part: Part; element: number }) {
  const { part, element } = props;
  const host = useRef<HTMLDivElement>(null);
  const section = part.sectionOf[element]!;
  useEffect(() => {
    const m = matrices(part, section);
    const h = part.sections[section]!.thickness;
    const kinds = [
      { name: 'pulled, free to bend', of: m.a, scale: h, dash: '', colour: '#1c4d8c', width: 2 },
      { name: 'pulled, bending held', of: m.held, scale: h, dash: '5 3', colour: '#1c4d8c', width: 1.2 },
      { name: 'bent', of: m.d, scale: h ** 3 / 12, dash: '1.5 3', colour: '#99331f', width: 1.8 },
    ];
    const curves = kinds.map((k) => {
      const points = Array.from({ length: 181 }, (_, i) => {
        const degrees = 2 * i;
        const E = along(k.of, degrees, k.scale);
        const radians = (degrees * Math.PI) / 180;
        return { x: E * Math.cos(radians), y: E * Math.sin(radians), E, degrees };
      });
      return { ...k, points };
    });
    const most = Math.max(...curves.flatMap((c) => c.points.map((p) => p.E)));
    const power = 10 ** Math.floor(Math.log10(most / 3));
    const step = [1, 2, 5, 10].map((f) => f * power).find((s) => s >= most / 4)!;
    const rings = Math.max(1, Math.ceil(most / step - 1e-9));
    const circle = (r: number) =>
      Array.from({ length: 73 }, (_, i) => ({ x: r * Math.cos((i * Math.PI) / 36), y: r * Math.sin((i * Math.PI) / 36) }));
    const R = rings * step;
    const spokes = [0, 45, 90, 135].map((d) => {
      const [x, y] = [R * Math.cos((d * Math.PI) / 180), R * Math.sin((d * Math.PI) / 180)];
      return [{ x, y }, { x: -x, y: -y }];
    });
    const plot = Plot.plot({
      width: 310,
      height: 310,
      margin: 12,
      ariaLabel: `Stiffness against direction, ${part.units.stress}`,
      x: { axis: null, domain: [-1.12 * R, 1.12 * R] },
      y: { axis: null, domain: [-1.12 * R, 1.12 * R] },
      marks: [
        ...Array.from({ length: rings }, (_, i) => Plot.line(circle((i + 1) * step), { x: 'x', y: 'y', stroke: '#d3cdc1', strokeWidth: 0.8 })),
        ...spokes.map((s) => Plot.line(s, { x: 'x', y: 'y', stroke: '#d3cdc1', strokeWidth: 0.8 })),
        ...curves.map((c) => Plot.line(c.points, { x: 'x', y: 'y', stroke: c.colour, strokeWidth: c.width, strokeDasharray: c.dash, curve: 'linear-closed' })),
        Plot.text(
          Array.from({ length: rings }, (_, i) => ({ x: (i + 1) * step * 0.924, y: (i + 1) * step * 0.383, t: number((i + 1) * step, 3) })),
          { x: 'x', y: 'y', text: 't', fill: '#6b675f', fontSize: 10, stroke: '#fff', strokeWidth: 3 },
        ),
        Plot.text(
          [
            { x: 1.06 * R, y: 0, t: '0°' },
            { x: 0, y: 1.07 * R, t: '90°' },
            { x: 0.77 * R, y: 0.77 * R, t: '45°' },
            { x: 0.77 * R, y: -0.77 * R, t: '−45°' },
          ],
          { x: 'x', y: 'y', text: 't', fontSize: 11, fill: '#22262b' },
        ),
        Plot.tip(curves.flatMap((c) => c.points.map((p) => ({ ...p, name: c.name }))), Plot.pointer({
          x: 'x',
          y: 'y',
          title: (p: { name: string; degrees: number; E: number }) => `${p.name}, ${p.degrees}°\n${number(p.E)} ${part.units.stress}`,
        })),
      ],
    });
    host.current!.replaceChildren(plot);
    return () => plot.remove();
  }, [part, section]);
  return (
    <figure class="polar">
      <figcaption>Stiffness against direction, {part.units.stress}</figcaption>
      <div ref={host} />
      <ul class="key">
        <li>
          <svg width="26" height="8"><path d="M0 4H26" stroke="#1c4d8c" stroke-width="2" /></svg> pulled, free to bend
        </li>
        <li>
          <svg width="26" height="8"><path d="M0 4H26" stroke="#1c4d8c" stroke-width="1.2" stroke-dasharray="5 3" /></svg> pulled, bending held
        </li>
        <li>
          <svg width="26" height="8"><path d="M0 4H26" stroke="#99331f" stroke-width="1.8" stroke-dasharray="1.5 3" /></svg> bent
        </li>
      </ul>
    </figure>
  );
}

/** A matrix with what is nought shown as such: against the largest of its kind. */
function Matrix(props: { name: string; unit: string; of: number[][]; least: number; note: string }) {
  return (
    <table class="matrix">
      <caption>
        <b>{props.name}</b> <span class="faint">{props.unit}</span> <span class="note">{props.note}</span>
      </caption>
      <tbody>
        {props.of.map((row, i) => (
          <tr>
            {row.map((v, j) => {
              const nought = Math.abs(v) <= props.least;
              return <td class={nought ? 'nought' : i === j ? 'diagonal' : ''}>{nought ? '0' : number(v)}</td>;
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

export function Reading(props: { part: Part; element: number }) {
  const { part, element } = props;
  const s = part.sectionOf[element]!;
  const section = part.sections[s]!;
  const m = matrices(part, s);
  const norm = (a: number[][]) => Math.hypot(...a.flat());
  const { force, length, line_force, stress } = part.units;
  const rows = ['in plane, free to bend', 'in plane, bending held', 'in bending'];
  return (
    <>
      <h3>What it does</h3>
      <ul class="words">
        {section.words.map((w) => (
          <li>{w}</li>
        ))}
      </ul>
      <h3>
        Stiffness <span class="faint">about the mesh; rows x, y, xy</span>
      </h3>
      <Matrix name="A" unit={line_force} of={m.A} least={1e-6 * norm(m.A)} note="stretching and shearing" />
      <Matrix name="B" unit={force} of={m.B} least={1e-6 * norm(m.A) * section.thickness} note="stretching into bending" />
      <Matrix name="D" unit={`${force} ${length}`} of={m.D} least={1e-6 * norm(m.D)} note="bending and twisting" />
      <Matrix name="H" unit={line_force} of={m.H} least={1e-6 * norm(m.H)} note="transverse shear xz, yz" />
      <h3>
        Engineering constants <span class="faint">{stress}</span>
      </h3>
      <table class="numbers">
        <thead>
          <tr>
            <th />
            <th>Ex</th>
            <th>Ey</th>
            <th>Gxy</th>
            <th>νxy</th>
          </tr>
        </thead>
        <tbody>
          {section.constants.map((c, i) => (
            <tr>
              <th scope="row">{rows[i]}</th>
              {c.map((v, k) => (
                <td>{number(v, k === 3 ? 3 : 4)}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

export function zonesAt(part: Part, element: number): string[] {
  return part.zones.filter((z, i) => i > 0 && inZone(z, element)).map((z) => z.name);
}
