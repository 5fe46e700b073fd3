// Draped plies: what came of each, and its flat cloth; the place that is chosen stands in both.

import { number } from './colours';
import { knownTo, shearColour } from './colouring';
import { css } from './colours';
import type { Cloth, Flat, Part } from './data';
import type { Set } from './tables';
import type { View } from './view';

/** The flat cloth of a ply, warp to the right, seen from the face that is laid last; shear as colours. */
function FlatCloth(props: { part: Part; cloth: Cloth; flat: Flat; place: number | null; onPlace: (element: number) => void }) {
  const { part, cloth, flat, place } = props;
  const drape = part.drapes[cloth.drape]!;
  const [x0, y0] = flat.low;
  const width = flat.high[0] - x0 || 1;
  const height = flat.high[1] - y0 || 1;
  const scale = Math.min(318 / width, 240 / height);
  const x = (u: number) => 10 + (u - x0) * scale;
  const y = (v: number) => 8 + (flat.high[1] - v) * scale;
  const path = flat.outlines
    .map((line) => {
      let d = '';
      for (let i = 0; i < line.length; i += 2) d += `${i === 0 ? 'M' : 'L'}${x(line[i]!).toFixed(2)} ${y(line[i + 1]!).toFixed(2)}`;
      return `${d}Z`;
    })
    .join('');
  const lies = new Set<number>();
  part.stacks.forEach((s, i) => s.plies.includes(cloth.ply) && lies.add(i));
  const dots: preact.JSX.Element[] = [];
  const here: number[] = [];
  for (let e = 0; e < part.count; e++)
    if (drape.piece[e] === flat.piece && lies.has(part.stackOf[e]!)) here.push(e);
  // Each element where its yarns put its corners, seen from its middle.
  const cos = Math.cos((drape.rest * Math.PI) / 180);
  const sin = Math.sin((drape.rest * Math.PI) / 180);
  for (const e of here) {
    const along = (of: Float32Array, d: number[]) => of[3 * e]! * d[0]! + of[3 * e + 1]! * d[1]! + of[3 * e + 2]! * d[2]!;
    const c = along(drape.warp, [drape.weft[3 * e]!, drape.weft[3 * e + 1]!, drape.weft[3 * e + 2]!]);
    const det = Math.max(1e-6, 1 - c * c);
    const corners = [0, 1, 2, 3].map((k) => {
      const p = 3 * part.corners[4 * e + k]!;
      const d = [0, 1, 2].map((i) => part.points[p + i]! - part.centres[3 * e + i]!);
      const [a, b] = [along(drape.warp, d), along(drape.weft, d)];
      const [u, v] = [(a - c * b) / det, (b - c * a) / det];
      return `${x(drape.cloth[2 * e]! + u + v * cos).toFixed(2)},${y(drape.cloth[2 * e + 1]! + v * sin).toFixed(2)}`;
    });
    const colour = css(shearColour(drape.shear[e]!, cloth.limit));
    dots.push(<polygon points={corners.join(' ')} fill={colour} stroke={colour} stroke-width="0.4" />);
  }
  const pick = (event: MouseEvent) => {
    const box = (event.currentTarget as SVGElement).getBoundingClientRect();
    const to = 340 / box.width;
    const [px, py] = [(event.clientX - box.left) * to, (event.clientY - box.top) * to];
    let best = -1;
    let least = Infinity;
    for (const e of here) {
      const off = (x(drape.cloth[2 * e]!) - px) ** 2 + (y(drape.cloth[2 * e + 1]!) - py) ** 2;
      if (off < least) [best, least] = [e, off];
    }
    if (best >= 0 && least < 400) props.onPlace(best);
  };
  const chosen = place !== null && drape.piece[place] === flat.piece && lies.has(part.stackOf[place]!) ? place : null;
  const total = height * scale + 30;
  const id = `cut-${cloth.ply}-${flat.piece}-${flat.low.join('-')}`.replaceAll(/[^\w-]/g, '_');
  const zero = (-drape.angle * Math.PI) / 180;
  const [sx, sy] = flat.seed ? [x(0), y(0)] : [x(x0 + width / 2), y(y0 + height / 2)];
  const [tx, ty] = [sx + 30 * Math.cos(zero), sy - 30 * Math.sin(zero)];
  return (
    <svg class="cloth" viewBox={`0 0 340 ${total}`} role="img" aria-label={`flat cloth of ${part.plies[cloth.ply]!.id}`} onClick={pick}>
      <clipPath id={id}>
        <path d={path} clip-rule="evenodd" />
      </clipPath>
      <g clip-path={`url(#${id})`}>
        <path d={path} fill="#f4f2ec" fill-rule="evenodd" />
        {dots}
      </g>
      <path d={path} fill="none" stroke="#21262b" stroke-width="0.9" />
      {flat.seed && <circle cx={sx} cy={sy} r="3.5" fill="none" stroke="#9a3321" stroke-width="1.2" />}
      <path d={`M${sx} ${sy}L${tx} ${ty}`} stroke="#21262b" stroke-width="1.1" />
      <circle cx={tx} cy={ty} r="1.8" fill="#21262b" />
      <text x={tx + 4} y={ty - 3} font-size="9.5">
        0°
      </text>
      {chosen !== null && (
        <g data-here={part.ids[chosen]}>
          <circle cx={x(drape.cloth[2 * chosen]!)} cy={y(drape.cloth[2 * chosen + 1]!)} r="6" fill="none" stroke="#fff" stroke-width="3.4" />
          <circle cx={x(drape.cloth[2 * chosen]!)} cy={y(drape.cloth[2 * chosen + 1]!)} r="6" fill="none" stroke="#21262b" stroke-width="1.6" />
        </g>
      )}
      <text x="10" y={total - 8} font-size="9.5" fill="#6b6862">
        {number(width, 4)} x {number(height, 4)} {part.units.length}, warp to the right
      </text>
    </svg>
  );
}

export function ClothList(props: { part: Part; view: View; set: Set; place: number | null }) {
  const { part, view, set, place } = props;
  const shown = part.cloths.find((c) => part.plies[c.ply]!.id === view.ply) ?? part.cloths[0]!;
  const unit = part.units.length;
  const largest = (c: Cloth) => Math.max(Math.abs(c.least), Math.abs(c.most));
  const verdict = (c: Cloth) =>
    c.reached < 1 - 1e-9 ? 'not reached everywhere' : c.strips ? '' : c.limit === null ? 'no limit known' : c.past > 0 ? 'past its limit' : 'can be laid';
  return (
    <>
      <p class="hint">Plies laid as cloth lies. Choose one to see its shear and its net; a click on the flat cloth shows the place on the part.</p>
      <table class="list">
        <thead>
          <tr>
            <th scope="col">ply</th>
            <th scope="col" class="number">
              mean
            </th>
            <th scope="col" class="number">
              largest
            </th>
            <th scope="col" class="number">
              limit
            </th>
            <th scope="col">verdict</th>
          </tr>
        </thead>
        <tbody>
          {part.cloths.map((c) => {
            const { id } = part.plies[c.ply]!;
            return (
              <tr data-cloth={id} class={c === shown ? 'chosen' : ''} tabIndex={0} onClick={() => set({ ply: id, show: 'alone', colour: 'shear' })}>
                <th scope="row">{id}</th>
                <td class="number">{number(c.mean, 2)}°</td>
                <td class="number">{number(largest(c), 3)}°</td>
                <td class="number">{c.limit === null ? '' : `${number(c.limit)}°`}</td>
                <td>{verdict(c)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <section class="ramp">
        <h3>
          {part.plies[shown.ply]!.id}{' '}
          <span class="faint">
            drape {part.drapes[shown.drape]!.name} at {number(part.drapes[shown.drape]!.angle)}°, {part.materials[part.plies[shown.ply]!.material]!.name}
          </span>
        </h3>
        <p class="about">
          {shown.strips
            ? `Strips: gaps up to ${number(100 * shown.gap, 2)} %, overlaps up to ${number(100 * shown.overlap, 2)} % of their width.`
            : `${number(100 * shown.reached, 4)} % reached; shear from ${number(shown.least, 3)}° to ${number(shown.most, 3)}°${shown.error === null ? '' : `, known to ${number(shown.error, 2)}° or better`}; ${number(100 * shown.past, 2)} % past the limit; up to ${number(100 * (shown.thickest - 1), 2)} % thicker.`}
          {place !== null && Number.isFinite(part.drapes[shown.drape]!.shear[place]!) && ` Here ${number(part.drapes[shown.drape]!.shear[place]!, 3)}°${knownTo(part, shown.drape, place)}.`}
        </p>
        {shown.flat.map((flat) => (
          <FlatCloth part={part} cloth={shown} flat={flat} place={place} onPlace={(e) => set({ at: { part: view.at?.part ?? 0, element: part.ids[e]! } })} />
        ))}
        {shown.flat.length > 0 && <p class="hint">Seen from the face that is laid last. Lengths in {unit}.</p>}
      </section>
    </>
  );
}
