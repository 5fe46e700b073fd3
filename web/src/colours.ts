// Colours that keep their order in grey print and for those who do not tell red from green: every scale runs evenly in
// lightness (OKLab: B. Ottosson, A perceptual color space for image processing, 2020), and no meaning hangs on colour
// alone.

export type Colour = [number, number, number];

/** sRGB bytes of a colour by lightness (0..1), chroma and hue in degrees. */
export function oklch(L: number, chroma: number, hue: number): Colour {
  const a = chroma * Math.cos((hue * Math.PI) / 180);
  const b = chroma * Math.sin((hue * Math.PI) / 180);
  return oklab(L, a, b);
}

function oklab(L: number, a: number, b: number): Colour {
  const l = (L + 0.3963377774 * a + 0.2158037573 * b) ** 3;
  const m = (L - 0.1055613458 * a - 0.0638541728 * b) ** 3;
  const s = (L - 0.0894841775 * a - 1.291485548 * b) ** 3;
  const linear = [
    4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
    -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
    -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s,
  ];
  return linear.map((v) => {
    const c = Math.min(1, Math.max(0, v));
    return Math.round(255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055));
  }) as Colour;
}

export const css = (c: Colour) => `rgb(${c[0]} ${c[1]} ${c[2]})`;

type Knot = { at: number; L: number; chroma: number; hue: number };

/** Between knots straight in OKLab. */
function through(knots: Knot[], t: number): Colour {
  let k = 0;
  while (k + 2 < knots.length && t > knots[k + 1]!.at) k++;
  const [p, q] = [knots[k]!, knots[k + 1]!];
  const f = Math.min(1, Math.max(0, (t - p.at) / (q.at - p.at)));
  const ab = (n: Knot) => [n.chroma * Math.cos((n.hue * Math.PI) / 180), n.chroma * Math.sin((n.hue * Math.PI) / 180)];
  const [u, v] = [ab(p), ab(q)];
  return oklab(p.L + f * (q.L - p.L), u[0]! + f * (v[0]! - u[0]!), u[1]! + f * (v[1]! - u[1]!));
}

/** From straw to dark indigo, lightness falling evenly; t from 0 to 1. */
export function amount(t: number): Colour {
  return through(
    [
      { at: 0, L: 0.93, chroma: 0.07, hue: 100 },
      { at: 0.35, L: 0.705, chroma: 0.1, hue: 165 },
      { at: 0.7, L: 0.48, chroma: 0.1, hue: 240 },
      { at: 1, L: 0.28, chroma: 0.11, hue: 285 },
    ],
    t,
  );
}

/** A fibre's angle in degrees: 0 light, 90 dark, +45 blue, -45 orange, and back again at 180. */
export function direction(degrees: number): Colour {
  const t = ((((degrees + 90) % 180) + 180) % 180) / 180;
  return through(
    [
      { at: 0, L: 0.36, chroma: 0.03, hue: 320 },
      { at: 0.25, L: 0.66, chroma: 0.15, hue: 50 },
      { at: 0.5, L: 0.93, chroma: 0.03, hue: 90 },
      { at: 0.75, L: 0.62, chroma: 0.12, hue: 245 },
      { at: 1, L: 0.36, chroma: 0.03, hue: 320 },
    ],
    t,
  );
}

const hues: [number, number, number][] = [
  [0.8, 0.09, 230],
  [0.6, 0.13, 45],
  [0.88, 0.11, 100],
  [0.53, 0.08, 165],
  [0.72, 0.1, 350],
  [0.42, 0.11, 275],
  [0.76, 0.12, 145],
  [0.55, 0.09, 10],
  [0.87, 0.05, 300],
  [0.6, 0.03, 90],
];
/** One of a row of kinds; beyond ten the row begins again, lighter: kinds have numbers, too. */
export function kind(index: number): Colour {
  const [L, chroma, hue] = hues[index % hues.length]!;
  const round = Math.floor(index / hues.length) % 3;
  return oklch(Math.min(0.95, L + 0.06 * round), chroma * (1 - 0.25 * round), hue + 12 * round);
}

export const pale: Colour = [226, 222, 214];
export const ink: Colour = [34, 38, 43];

/** At most `most` + 1 round numbers from low to high. */
export function ticks(low: number, high: number, most = 6): number[] {
  if (!(high > low)) return [low];
  const raw = (high - low) / most;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = [1, 2, 5, 10].map((m) => m * power).find((s) => s >= raw * (1 - 1e-9))!;
  const out: number[] = [];
  for (let i = Math.ceil(low / step - 1e-9); i * step <= high + 1e-9 * step; i++) out.push(i === 0 ? 0 : i * step);
  return out;
}

/** Four significant digits, without an exponent where that can be avoided. */
export function number(value: number, digits = 4): string {
  if (!Number.isFinite(value)) return '–';
  if (value === 0) return '0';
  const size = Math.abs(value);
  if (size >= 1e6 || size < 1e-4) {
    const [m, e] = value.toExponential(digits - 1).split('e');
    return `${Number(m)}e${Number(e)}`;
  }
  const text = value.toPrecision(digits);
  return size >= 10 ** digits ? String(Math.round(value)) : text.includes('.') ? text.replace(/\.?0+$/, '') : text;
}
