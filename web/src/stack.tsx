// The laminate at one place, drawn to scale.

import { css, direction, number } from './colours';
import { thicknessIn, inZone, type Part } from './data';

export const coreColour: [number, number, number] = [236, 224, 186];

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
    const thickness = thicknessIn(part, stack, i);
    z += thickness;
    return { ply: part.plies[p]!, thickness, angle: section.angles[i]!, low, high: z };
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
            aria-label={`ply ${l.ply.id}, ${number(l.angle)} degrees, ${material.name}, ${number(l.thickness)} ${part.units.length}, z ${number(clean(l.low))} to ${number(clean(l.high))}`}
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
                {number(l.thickness, 3)}
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

export function zonesAt(part: Part, element: number): string[] {
  return part.zones.filter((z, i) => i > 0 && inZone(z, element)).map((z) => z.name);
}
