// What lies over the picture: axes, a scale, names, and what is measured.

import { number } from './colours';
import type { Page, Vector } from './data';
import type { Picture } from './scene';
import type { Tag } from './tags';
import type { View } from './view';

export function Overlay(props: {
  page: Page;
  picture: Picture;
  view: View;
  tags: Tag[];
  place: { part: number; element: number } | null;
  /** Grows with every picture, so that what lies over it follows. */
  drawn: number;
}) {
  const { picture, page, view } = props;
  const [w, h] = [picture.canvas.clientWidth, picture.canvas.clientHeight];
  if (w === 0 || h === 0) return null; // on paper
  const unit = page.parts[0]!.units.length;
  const pixel = picture.height / h;
  const power = 10 ** Math.floor(Math.log10(160 * pixel));
  const length = [5, 2, 1].map((m) => m * power).find((l) => l <= 160 * pixel) ?? power;
  const axes = picture.axes();
  const { place } = props;
  const chosen = place && picture.seenAt(place.part, place.element);
  const points = view.measure.map((p) => page.parts.map((_, i) => picture.project(i, p)));
  return (
    <>
      <svg class="overlay" width={w} height={h} aria-hidden="true">
        <g transform={`translate(${w - 56} ${h - 82})`}>
          {axes
            .map(([x, y], k) => ({ x, y, k }))
            .map(({ x, y, k }) => (
              <g>
                <path d={`M0 0L${30 * x} ${-30 * y}`} stroke="#22262b" stroke-width="1.6" />
                <text x={42 * x} y={-42 * y + 4} text-anchor="middle" class="axis">
                  {'xyz'[k]}
                </text>
              </g>
            ))}
        </g>
        <g transform={`translate(${w - 120 - length / pixel} ${h - 34})`}>
          <path d={`M0 -5V0H${length / pixel}V-5`} fill="none" stroke="#22262b" stroke-width="1.4" />
          <text x={length / pixel / 2} y={-5} text-anchor="middle">
            {number(length)} {unit}
          </text>
        </g>
        {chosen && (
          <g class="chosen">
            <circle cx={chosen[0]} cy={chosen[1]} r="11" class="halo" />
            <circle cx={chosen[0]} cy={chosen[1]} r="11" />
          </g>
        )}
        {points.length === 2 &&
          points[0]!.map((p, i) => {
            const q = points[1]![i]!;
            return (
              <g class="measure">
                <path d={`M${p[0]} ${p[1]}L${q[0]} ${q[1]}`} class="halo" />
                <path d={`M${p[0]} ${p[1]}L${q[0]} ${q[1]}`} />
              </g>
            );
          })}
        {points.flat().map(([x, y]) => (
          <g class="measure">
            <path d={`M${x - 7} ${y}h14M${x} ${y - 7}v14`} class="halo" />
            <path d={`M${x - 7} ${y}h14M${x} ${y - 7}v14`} />
          </g>
        ))}
      </svg>
      {props.tags.map((t) => (
        <span class="tag" style={{ left: `${t.x}px`, top: `${t.y}px` }}>
          {t.text}
        </span>
      ))}
    </>
  );
}

export function measured(points: Vector[]): { whole: number; by: Vector } | null {
  if (points.length < 2) return null;
  const by = points[1]!.map((v, k) => v - points[0]![k]!) as Vector;
  return { whole: Math.hypot(...by), by };
}
