// What the page shows, as plain values that a link can carry.

export type Show = 'all' | 'alone' | 'upto';
export type Arrows = 'none' | 'zero' | 'fibre' | 'weft' | 'normal';
export type Tab = 'place' | 'plies' | 'zones' | 'ramps' | 'cloth' | 'results' | 'findings' | 'differences';
export interface Cut {
  axis: 'x' | 'y' | 'z';
  /** From 0 to 1 through the box of the part. */
  at: number;
  flipped: boolean;
}
export interface Camera {
  /** From the target to the eye; unit. */
  from: [number, number, number];
  target: [number, number, number];
  /** Height of the picture in lengths of the part. */
  height: number;
}
export interface Place {
  part: number;
  /** Id in the mesh file. */
  element: number;
}
export interface View {
  colour: string;
  ply: string | null;
  show: Show;
  zone: string | null;
  arrows: Arrows;
  /** Thickness is drawn so many times; 0 draws the surface alone. */
  layers: number;
  lines: boolean;
  cut: Cut | null;
  at: Place | null;
  tab: Tab;
  /** The case or mode that the part is shown moved by, how much, and whether to and fro. */
  shape: string | null;
  scale: number;
  moving: boolean;
  /** Of which stresses are shown; null is the first. */
  case: string | null;
  /** Of a ply: bottom, middle, top. */
  face: 0 | 1 | 2;
  /** Which two components of a load the failure envelope is drawn in. */
  pair: number;
  /** Two points to measure between, and the part they lie on. */
  measure: [number, number, number][];
  camera: Camera | null;
}

export const plain: View = {
  colour: 'thickness',
  ply: null,
  show: 'all',
  zone: null,
  arrows: 'none',
  layers: 0,
  lines: true,
  cut: null,
  at: null,
  tab: 'place',
  shape: null,
  scale: 1,
  moving: false,
  case: null,
  face: 2,
  pair: 0,
  measure: [],
  camera: null,
};

const short = (v: number) => String(Number(v.toPrecision(8)));
const numbers = (text: string | null, count: number): number[] | null => {
  const all = (text ?? '').split(',').map(Number);
  return all.length === count && all.every(Number.isFinite) ? all : null;
};
const oneOf = <T extends string>(text: string | null, known: readonly T[], otherwise: T): T =>
  known.includes(text as T) ? (text as T) : otherwise;

/** Where nothing else is said: a place that is chosen is looked at. */
const usualTab = (at: Place | null, opening: View): Tab => (at ? plain.tab : opening.tab);

/** The part of a link behind '#'; what is as the page opens is left out. */
export function toFragment(v: View, opening: View): string {
  const out = new URLSearchParams();
  if (v.colour !== opening.colour) out.set('colour', v.colour);
  if (v.ply !== null) out.set('ply', v.ply);
  if (v.show !== 'all') out.set('show', v.show);
  if (v.zone !== null) out.set('zone', v.zone);
  if (v.arrows !== 'none') out.set('arrows', v.arrows);
  if (v.layers > 0) out.set('layers', short(v.layers));
  if (!v.lines) out.set('lines', 'no');
  if (v.cut) out.set('cut', `${v.cut.flipped ? '-' : ''}${v.cut.axis}${short(v.cut.at)}`);
  if (v.at) out.set('at', `${v.at.part === 1 ? 'b' : ''}${v.at.element}`);
  if (v.tab !== usualTab(v.at, opening)) out.set('tab', v.tab);
  if (v.shape !== null) out.set('shape', v.shape);
  if (v.shape !== null && v.scale !== 1) out.set('times', short(v.scale));
  if (v.moving) out.set('moving', 'yes');
  if (v.case !== null) out.set('case', v.case);
  if (v.face !== plain.face) out.set('face', String(v.face));
  if (v.pair !== plain.pair) out.set('pair', String(v.pair));
  if (v.measure.length > 0) out.set('measure', v.measure.map((p) => p.map(short).join(',')).join(';'));
  if (v.camera) out.set('eye', [...v.camera.from, ...v.camera.target, v.camera.height].map(short).join(','));
  return out.toString().replaceAll('%2C', ',').replaceAll('%3B', ';').replaceAll('%3A', ':');
}

/** What cannot be read is as the page opens. */
export function fromFragment(text: string, opening: View): View {
  const given = new URLSearchParams(text.replace(/^#/, ''));
  const cut = /^(-?)([xyz])([0-9.e-]+)$/.exec(given.get('cut') ?? '');
  const at = /^(b?)(-?\d+)$/.exec(given.get('at') ?? '');
  const eye = numbers(given.get('eye'), 7);
  const layers = Number(given.get('layers') ?? 0);
  const measure = (given.get('measure') ?? '')
    .split(';')
    .map((p) => numbers(p, 3))
    .filter((p): p is [number, number, number] => p !== null);
  const place = at ? { part: at[1] === 'b' ? 1 : 0, element: Number(at[2]) } : null;
  return {
    colour: given.get('colour') ?? opening.colour,
    ply: given.get('ply'),
    show: oneOf(given.get('show'), ['all', 'alone', 'upto'] as const, 'all'),
    zone: given.get('zone'),
    arrows: oneOf(given.get('arrows'), ['none', 'zero', 'fibre', 'weft', 'normal'] as const, 'none'),
    layers: layers > 0 && layers <= 1000 ? layers : 0,
    lines: given.get('lines') !== 'no',
    cut: cut
      ? { axis: cut[2] as Cut['axis'], at: Math.min(1, Math.max(0, Number(cut[3]) || 0)), flipped: cut[1] === '-' }
      : null,
    at: place,
    tab: oneOf(given.get('tab'), ['place', 'plies', 'zones', 'ramps', 'cloth', 'results', 'findings', 'differences'] as const, usualTab(place, opening)),
    shape: given.get('shape'),
    scale: Number.isFinite(Number(given.get('times') ?? 1)) ? Number(given.get('times') ?? 1) : 1,
    moving: given.get('moving') === 'yes',
    case: given.get('case'),
    face: ({ '0': 0, '1': 1 } as const)[given.get('face') ?? ''] ?? plain.face,
    pair: /^\d$/.test(given.get('pair') ?? '') ? Number(given.get('pair')) : plain.pair,
    measure: measure.slice(0, 2),
    camera: eye
      ? {
          from: [eye[0]!, eye[1]!, eye[2]!],
          target: [eye[3]!, eye[4]!, eye[5]!],
          height: Math.abs(eye[6]!) || 1,
        }
      : null,
  };
}
