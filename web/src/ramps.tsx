// How plies end one after another: each ramp as a cut across it, and its lines as a table.

import { css, direction, number } from './colours';
import { coreColour } from './stack';
import type { Cut, Part } from './data';
import type { Set } from './tables';

/** The cut, thickness larger than life; every end of a ply with its distance from the first. */
function CutDrawing(props: { part: Part; cut: Cut | null; name: string; ply: string | null; onPly: (id: string) => void }) {
  const { part, cut, ply } = props;
  if (!cut) return <p class="hint">No straight cut goes across it.</p>;
  const [left, top, width, height] = [36, 8, 300, 130];
  const low = Math.min(0, ...cut.bands.map((b) => Math.min(b[3]!, b[4]!)));
  const high = Math.max(0, ...cut.bands.map((b) => Math.max(b[3]! + b[5]!, b[4]! + b[6]!)));
  const across = width / cut.length;
  const up = height / (high - low || 1);
  const x = (at: number) => left + at * across;
  const y = (z: number) => top + (high - z) * up;
  const fill = (p: number) => {
    const { material, angle } = part.plies[p]!;
    return css(part.materials[material]!.core ? coreColour : direction(angle));
  };
  // Ends at one place share a line.
  const ends: { at: number; plies: number[] }[] = [];
  for (const [p, at] of cut.edges) {
    const last = ends[ends.length - 1];
    if (last && at - last.at < 1e-6 * cut.length) last.plies.push(p);
    else ends.push({ at, plies: [p] });
  }
  // Names at the left, as many as find room.
  const named: { at: number; id: string }[] = [];
  for (const b of cut.bands) {
    if (b[1] !== 0) continue;
    const at = y(b[3]! + b[5]! / 2);
    if (named.length === 0 || named[named.length - 1]!.at - at >= 9) named.push({ at, id: part.plies[b[0]!]!.id });
  }
  const row = 14;
  const total = top + height + 12 + row * ends.length + 4;
  return (
    <svg class="ramp" viewBox={`0 0 340 ${total}`} role="img" aria-label={props.name}>
      {cut.bands.map(([p, from, to, b0, b1, t0, t1]) => (
        <polygon
          points={[[from, b0], [to, b1], [to, b1! + t1!], [from, b0! + t0!]].map(([a, z]) => `${x(a!).toFixed(2)},${y(z!).toFixed(2)}`).join(' ')}
          fill={fill(p!)}
          stroke="#21262b"
          stroke-width={ply === part.plies[p!]!.id ? 1.6 : 0.25}
          onClick={() => props.onPly(part.plies[p!]!.id)}
        >
          <title>
            {part.plies[p!]!.id} {number(part.plies[p!]!.angle)}°
          </title>
        </polygon>
      ))}
      {named.map(({ at, id }) => (
        <text x={left - 4} y={at + 3.2} text-anchor="end" font-size="9.5">
          {id}
        </text>
      ))}
      {ends.map(({ at, plies }, i) => {
        const down = top + height + 14 + row * i;
        const words = `${number(at - ends[0]!.at, 4)}  ${plies.map((p) => part.plies[p]!.id).join(', ')}`;
        const room = x(at) < 0.62 * width;
        return (
          <g>
            <line x1={x(at)} x2={x(at)} y1={top + height + 2} y2={down + 2} stroke="#b9b5ad" stroke-width="0.6" />
            {i > 0 && <line x1={x(ends[0]!.at)} x2={x(at)} y1={down} y2={down} stroke="#21262b" stroke-width="0.6" />}
            <text x={room ? x(at) + 5 : x(i > 0 ? ends[0]!.at : at) - 5} y={down + 3.5} text-anchor={room ? 'start' : 'end'} font-size="10.5">
              {words}
            </text>
          </g>
        );
      })}
    </svg>
  );
}

export function RampList(props: { part: Part; ply: string | null; set: Set }) {
  const { part, ply, set } = props;
  const unit = part.units.length;
  const choose = (id: string) => set({ ply: ply === id ? null : id, show: 'alone' });
  return (
    <>
      <p class="hint">Thick side first; thickness is drawn larger than life, distances along the surface in {unit} from the first end.</p>
      {part.profiles.map((one) => (
        <section class="ramp" data-profile>
          <h3>
            section{' '}
            <span class="faint">
              from {one.from.map((v) => number(v)).join(', ')} to {one.to.map((v) => number(v)).join(', ')}, {number(one.cut.length)} {unit} long
            </span>
          </h3>
          <CutDrawing part={part} cut={one.cut} name="section" ply={ply} onPly={choose} />
        </section>
      ))}
      {part.ramps.map((ramp) => (
        <section class="ramp" data-ramp={ramp.name}>
          <h3>
            {ramp.name}{' '}
            <span class="faint">
              {ramp.to === null ? `round ${part.zones[ramp.from]!.name}` : `from ${part.zones[ramp.from]!.name} to ${part.zones[ramp.to]!.name}`}, over{' '}
              {number(ramp.run)} {unit}
            </span>
          </h3>
          <CutDrawing part={part} cut={ramp.cut} name={`cut across ramp ${ramp.name}`} ply={ply} onPly={choose} />
          <table class="list">
            <thead>
              <tr>
                <th scope="col">ends</th>
                <th scope="col" class="number">
                  edge {unit}
                </th>
                <th scope="col" class="number">
                  t {unit}
                </th>
                <th scope="col" class="number">
                  slope
                </th>
                <th scope="col">left is</th>
              </tr>
            </thead>
            <tbody>
              {ramp.steps.map((step) => (
                <tr>
                  <th scope="row">
                    {step.plies.map((p) => (
                      <>
                        <button type="button" class="link" onClick={() => choose(part.plies[p]!.id)}>
                          {part.plies[p]!.id}
                        </button>{' '}
                      </>
                    ))}
                  </th>
                  <td class="number">{number(step.by)}</td>
                  <td class="number">{number(step.thickness)}</td>
                  <td class="number">{step.run > 0 ? `1:${number(step.run / step.thickness, 3)}` : ''}</td>
                  <td>{[step.symmetric && 'symmetric', step.balanced && 'balanced'].filter(Boolean).join(', ')}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      ))}
    </>
  );
}
