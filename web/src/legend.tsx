// What the colours mean, on the picture.

import type { Colouring } from './colouring';
import { css, direction, number, type Colour } from './colours';

const stripes = (c: Colour, hatched: boolean) =>
  hatched ? `repeating-linear-gradient(45deg, ${css(c)} 0 4px, #4a4d50 4px 5.5px)` : css(c);

/** Colours of the edges of layers. */
function LayerKey() {
  return (
    <>
      <h2>Edges of layers</h2>
      <p class="entry wrap">
        {[0, 45, 90, -45].map((a) => (
          <span class="entry">
            <span class="swatch" style={{ background: css(direction(a)) }} />
            {a > 0 && a < 90 ? '+' : ''}
            {a}°
          </span>
        ))}
        <span class="entry">
          <span class="swatch cells" />
          core
        </span>
      </p>
    </>
  );
}

export function LegendView(props: { of: Colouring; layers: boolean; zone: string | null; onZone: (name: string) => void }) {
  const { of } = props;
  const { legend } = of;
  if (legend.kind === 'scale') {
    const { low, high, ticks, colour } = legend;
    const shown = legend.labels ?? ((v: number) => number(v));
    const span = high - low;
    const height = 176;
    const steps = 44;
    return (
      <section class="legend" aria-label="Legend">
        <h2>
          {of.title}
          {of.unit && <span class="unit"> {of.unit}</span>}
        </h2>
        {span > 0 ? (
          <svg width="120" height={height + 14} role="img" aria-label={`from ${number(low)} to ${number(high)} ${of.unit}`}>
            {Array.from({ length: steps }, (_, i) => (
              <rect x="0" y={7 + (height * i) / steps} width="18" height={height / steps + 0.6} fill={css(colour(high - (span * (i + 0.5)) / steps))} />
            ))}
            <rect x="0" y="7" width="18" height={height} fill="none" stroke="#22262b" stroke-width="0.8" />
            {[...new Set([low, ...ticks, high])].map((v) => {
              const end = v === low || v === high;
              const y = 7 + height * (1 - (v - low) / span);
              const near = !end && (Math.abs(v - low) < 0.07 * span || Math.abs(high - v) < 0.07 * span);
              return near ? null : (
                <g>
                  <path d={`M18 ${y}h5`} stroke="#22262b" />
                  <text x="27" y={y + 4} font-weight={end ? 600 : 400}>
                    {shown(v)}
                  </text>
                </g>
              );
            })}
          </svg>
        ) : (
          <p class="entry">
            <span class="swatch" style={{ background: css(colour(low)) }} /> {shown(low)} everywhere
          </p>
        )}
        {props.layers && <LayerKey />}
      </section>
    );
  }
  return (
    <section class="legend" aria-label="Legend">
      <h2>{of.title}</h2>
      <ul>
        {legend.entries.map((e) => (
          <li>
            <button
              type="button"
              class={e.zone !== undefined && e.zone === props.zone ? 'entry chosen' : 'entry'}
              disabled={e.zone === undefined}
              onClick={() => e.zone !== undefined && props.onZone(e.zone)}
            >
              <span class="swatch" style={{ background: stripes(e.colour, e.hatched) }} />
              {e.tag && e.tag !== e.label && <b>{e.tag}</b>}
              <span class="label" title={e.label}>
                {e.label}
              </span>
              {Number.isFinite(e.area) && <span class="faint">{number(e.area, 3)} m²</span>}
            </button>
          </li>
        ))}
      </ul>
      {legend.more > 0 && <p class="faint">and {legend.more} smaller ones; point at them to see</p>}
      {props.layers && <LayerKey />}
    </section>
  );
}
