// Stiffness against direction.

import * as Plot from '@observablehq/plot';
import { useEffect, useRef } from 'preact/hooks';
import { number, ticks } from './colours';
import { matrices, type Part } from './data';

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
    const step = ticks(0, most, 4)[1]!;
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
