// What elements are coloured by: one entry of `modes` for each thing there is to see.

import { amount, direction, kind, number, pale, ticks, type Colour } from './colours';
import { thicknessIn, inZone, matrices, narrowestZones, type Cloth, type Part } from './data';
import { caseOf } from './results';
import { stressAt } from './stress';
import type { View } from './view';

/** Of the side that lies on the tool, where sides are shown. */
export const toolSide = kind(0);

/** How an element is filled; the fourth byte of its colour. */
export const fill = { plain: 255, hatched: 170, faint: 60 } as const;

export interface Entry {
  colour: Colour;
  hatched: boolean;
  /** Stands on the picture, too. */
  tag: string;
  label: string;
  /** m^2 */
  area: number;
  zone?: string;
}
export type Legend =
  | { kind: 'scale'; low: number; high: number; ticks: number[]; colour: (value: number) => Colour; labels?: (value: number) => string }
  | { kind: 'entries'; entries: Entry[]; more: number };
export interface Colouring {
  title: string;
  unit: string;
  /** Four bytes per element: red, green, blue, fill. */
  colours: Uint8Array;
  /** Where neighbours differ a border is drawn; -1 is nothing. */
  category: Int32Array;
  legend: Legend;
  /** For the line under the picture. */
  text: (element: number) => string;
  /** Stands on the picture where the category is widest. */
  tag: (element: number) => string;
}

export interface Mode {
  key: string;
  label: string;
  /** Heading in the menu. */
  group?: string;
}

/** A number of each section, with its unit. */
interface OfSection {
  key: string;
  label: string;
  unit: (part: Part) => string;
  value: (part: Part, section: number) => number;
}
const stress = (p: Part) => p.units.stress;
const perLength = (p: Part) => p.units.line_force;
const moment = (p: Part) => `${p.units.force} ${p.units.length}`;
const ofSections: OfSection[] = [
  { key: 'Ex', label: 'Ex in plane, free to bend', unit: stress, value: (p, s) => p.sections[s]!.constants[0]![0]! },
  { key: 'Ey', label: 'Ey in plane, free to bend', unit: stress, value: (p, s) => p.sections[s]!.constants[0]![1]! },
  { key: 'Gxy', label: 'Gxy in plane, free to bend', unit: stress, value: (p, s) => p.sections[s]!.constants[0]![2]! },
  { key: 'A11', label: 'A11', unit: perLength, value: (p, s) => matrices(p, s).A[0]![0]! },
  { key: 'A22', label: 'A22', unit: perLength, value: (p, s) => matrices(p, s).A[1]![1]! },
  { key: 'A66', label: 'A66', unit: perLength, value: (p, s) => matrices(p, s).A[2]![2]! },
  { key: 'D11', label: 'D11 about the mesh', unit: moment, value: (p, s) => matrices(p, s).D[0]![0]! },
  { key: 'D22', label: 'D22 about the mesh', unit: moment, value: (p, s) => matrices(p, s).D[1]![1]! },
  { key: 'D66', label: 'D66 about the mesh', unit: moment, value: (p, s) => matrices(p, s).D[2]![2]! },
];

/** Modes that a page offers, in the order of its menu. */
export function modesOf(parts: Part[]): Mode[] {
  const fields = new Map<string, Mode>();
  for (const part of parts)
    for (const f of part.fields) fields.set(f.name, { key: `field:${f.name}`, label: f.unit ? `${f.name}, ${f.unit}` : f.name });
  return [
    { key: 'thickness', label: 'Thickness' },
    { key: 'plies', label: 'Number of plies' },
    { key: 'mass', label: 'Mass per area' },
    { key: 'laminate', label: 'Laminate' },
    { key: 'section', label: 'Section' },
    { key: 'zone', label: 'Zone (the narrowest)' },
    { key: 'side', label: 'Side: tool or bag' },
    { key: 'angle', label: 'Ply angle in its frame' },
    { key: 'turned', label: 'Ply angle from the 0° of its stack' },
    { key: 'bottom', label: 'Material on the tool side' },
    { key: 'top', label: 'Material on the bag side' },
    ...(parts.some((p) => p.cloths.length > 0) ? [{ key: 'shear', label: 'Shear of draped cloth' }] : []),
    ...(parts.length > 1 ? [{ key: 'differs', label: 'Differences' }] : []),
    ...(parts.some((p) => p.results)
      ? [
          { key: 'reserve', label: 'Least reserve', group: 'Results' },
          { key: 'criterion', label: 'Criterion that decides', group: 'Results' },
          { key: 'critical', label: 'Ply that fails first', group: 'Results' },
          ...(parts.some((p) => (p.results?.cases.length ?? 0) > 0)
            ? ['s1, along the fibres', 's2, across them', 't12, in the plane'].map((label, k) => ({ key: `stress:${k}`, label: `Stress ${label}`, group: 'Results' }))
            : []),
        ]
      : []),
    ...ofSections.map(({ key, label }) => ({ key, label, group: 'Stiffness' })),
    ...[...fields.values()].map((m) => ({ ...m, group: 'Fields' })),
  ];
}

/** Numbers of both parts share one scale. */
function bounds(parts: Part[], values: (part: Part) => Iterable<number>): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (const part of parts)
    for (const v of values(part)) {
      if (v < low) low = v;
      if (v > high) high = v;
    }
  return Number.isFinite(low) ? [low, high] : [0, 1];
}

function scaled(
  parts: Part[],
  part: Part,
  title: string,
  unit: string,
  every: (part: Part) => Iterable<number>,
  value: (element: number) => number,
): Colouring {
  const [low, high] = bounds(parts, every);
  const colour = (v: number) => amount(high > low ? (v - low) / (high - low) : 0.35);
  const colours = new Uint8Array(4 * part.count);
  const category = new Int32Array(part.count);
  const seen = new Map<number, number>();
  const known = new Map<number, Colour>();
  for (let e = 0; e < part.count; e++) {
    const v = value(e);
    if (!Number.isFinite(v)) {
      colours.set([...pale, fill.faint], 4 * e);
      category[e] = -1;
      continue;
    }
    let c = known.get(v);
    if (!c) {
      c = colour(v);
      known.set(v, c);
    }
    colours[4 * e] = c[0];
    colours[4 * e + 1] = c[1];
    colours[4 * e + 2] = c[2];
    colours[4 * e + 3] = fill.plain;
    let k = seen.get(v);
    if (k === undefined) {
      k = seen.size;
      seen.set(v, k);
    }
    category[e] = k;
  }
  if (seen.size > 200) category.fill(0); // a field that varies everywhere has no borders
  return {
    title,
    unit,
    colours,
    category,
    legend: { kind: 'scale', low, high, ticks: ticks(low, high), colour },
    text: (e) => (Number.isFinite(value(e)) ? `${number(value(e))} ${unit}`.trim() : 'nothing here'),
    tag: (e) => (seen.size > 40 ? '' : number(value(e), 3)),
  };
}

/** Kinds in order of their area, the largest first; colours go by `key`, so that both parts agree. */
function sorted(
  part: Part,
  title: string,
  keyOf: (element: number) => number,
  entry: (key: number) => { label: string; colour?: Colour; hatched?: boolean; tag?: string; zone?: string },
  colourIndex: (key: number) => number = (key) => key,
): Colouring {
  const area = new Map<number, number>();
  for (let e = 0; e < part.count; e++) area.set(keyOf(e), (area.get(keyOf(e)) ?? 0) + part.areas[e]!);
  const square = part.units.metre ** 2;
  const entries = new Map<number, Entry>();
  for (const [key, a] of area) {
    if (key < 0) continue;
    const made = entry(key);
    entries.set(key, {
      colour: made.colour ?? kind(colourIndex(key)),
      hatched: made.hatched ?? false,
      tag: made.tag ?? String(key + 1),
      label: made.label,
      area: a * square,
      ...(made.zone === undefined ? {} : { zone: made.zone }),
    });
  }
  const colours = new Uint8Array(4 * part.count);
  const category = new Int32Array(part.count);
  for (let e = 0; e < part.count; e++) {
    const key = keyOf(e);
    category[e] = key;
    const found = entries.get(key);
    if (!found) {
      colours.set([...pale, fill.faint], 4 * e);
      continue;
    }
    colours[4 * e] = found.colour[0];
    colours[4 * e + 1] = found.colour[1];
    colours[4 * e + 2] = found.colour[2];
    colours[4 * e + 3] = found.hatched ? fill.hatched : fill.plain;
  }
  const list = [...entries.values()].sort((a, b) => b.area - a.area);
  const most = 14;
  return {
    title,
    unit: '',
    colours,
    category,
    legend: { kind: 'entries', entries: list.slice(0, most), more: Math.max(0, list.length - most) },
    text: (e) => {
      const found = entries.get(keyOf(e));
      return found ? `${found.tag === found.label ? '' : `${found.tag} `}${found.label}` : 'nothing here';
    },
    tag: (e) => entries.get(keyOf(e))?.tag ?? '',
  };
}

/** The ply that is looked at on an element: the one chosen, or the last laid. -1 where it does not lie. */
function plyAt(part: Part, element: number, ply: number | null, show: View['show']): number {
  const plies = part.stacks[part.stackOf[element]!]!.plies;
  if (ply === null) return plies[plies.length - 1]!;
  if (show !== 'upto') return plies.includes(ply) ? ply : -1;
  for (let i = plies.length - 1; i >= 0; i--) if (plies[i]! <= ply) return plies[i]!;
  return -1;
}

function angles(part: Part, title: string, ply: number | null, show: View['show'], of: (e: number, p: number) => number) {
  const key = (e: number) => {
    const p = plyAt(part, e, ply, show);
    if (p < 0) return -1;
    const angle = Math.round(of(e, p) * 10);
    return ((((angle + 900 - 1) % 1800) + 1800) % 1800) + 1; // (-90, 90] degrees as 1 .. 1800
  };
  const degrees = (k: number) => (k - 900) / 10;
  return sorted(part, title, key, (k) => ({
    label: `${number(degrees(k))}°`,
    tag: `${number(degrees(k))}°`,
    colour: direction(degrees(k)),
  }));
}

/** Ids of the plies of all parts in laying order: those of the second stand behind what they follow there. */
export function plyIds(parts: Part[]): string[] {
  const out = parts[0]!.plies.map((p) => p.id);
  for (const part of parts.slice(1))
    part.plies.forEach(({ id }, i) => {
      if (out.includes(id)) return;
      const before = i === 0 ? -1 : out.indexOf(part.plies[i - 1]!.id);
      out.splice(before + 1, 0, id);
    });
  return out;
}

/**
 * The ply of a part that a view means, by its place in the list; null where it means none. In a part that does not have
 * it: the one before it where plies are built up, otherwise -1.
 */
export function plyIndex(parts: Part[], part: Part, view: Pick<View, 'ply' | 'show'>): number | null {
  if (view.ply === null) return null;
  const exact = part.plies.findIndex((p) => p.id === view.ply);
  if (exact >= 0 || view.show === 'alone') return exact;
  if (view.show === 'all') return null;
  const order = plyIds(parts);
  const rank = order.indexOf(view.ply);
  return part.plies.reduce((last, p, i) => (order.indexOf(p.id) <= rank ? i : last), -1);
}

/** One number for each name, the same in both parts. */
function shared(parts: Part[], names: (part: Part) => string[]): Map<string, number> {
  const out = new Map<string, number>();
  for (const part of parts) for (const name of names(part)) if (!out.has(name)) out.set(name, out.size);
  return out;
}

const pastLimit: Colour = [178, 34, 30];
/** Shear as a colour: none is pale, the limit deep blue, past it red. */
export function shearColour(shear: number, limit: number | null): Colour {
  const of = limit ?? 45;
  if (!Number.isFinite(shear)) return pale;
  const t = Math.min(1, Math.abs(shear) / of);
  return Math.abs(shear) > of ? pastLimit : [Math.round(244 - 210 * t), Math.round(242 - 142 * t), Math.round(236 - 88 * t)];
}

/** What shear is known to at a place, as a remark behind it; nothing where nobody laid the cloth twice. */
export function knownTo(part: Part, drape: number, element: number): string {
  const known = part.drapes[drape]!.known[element]!;
  return Number.isFinite(known) ? `, known to ${number(known, 2)}°` : '';
}

/** Of the ply that is chosen, or the draped one of largest shear; past the limit hatched. */
function shearOf(parts: Part[], part: Part, view: View): Colouring {
  const ply = plyIndex(parts, part, view);
  const chosen = part.cloths.filter((c) => !c.strips && (ply === null || c.ply === ply));
  const lies = chosen.map((c) => part.stacks.map((s) => s.plies.includes(c.ply)));
  const worst = (e: number): [number, Cloth | undefined] => {
    let out: [number, Cloth | undefined] = [NaN, undefined];
    chosen.forEach((c, k) => {
      if (!lies[k]![part.stackOf[e]!]) return;
      const shear = part.drapes[c.drape]!.shear[e]!;
      if (Number.isFinite(shear) && !(Math.abs(shear) <= Math.abs(out[0]))) out = [shear, c];
    });
    return out;
  };
  const colours = new Uint8Array(4 * part.count);
  const category = new Int32Array(part.count);
  let high = 0;
  for (let e = 0; e < part.count; e++) {
    const [shear, cloth] = worst(e);
    if (!cloth) {
      colours.set([...pale, fill.faint], 4 * e);
      category[e] = -1;
      continue;
    }
    const past = cloth.limit !== null && Math.abs(shear) > cloth.limit;
    colours.set([...shearColour(shear, cloth.limit), past ? fill.hatched : fill.plain], 4 * e);
    category[e] = past ? 1 : 0; // the limit is a line on the part
    high = Math.max(high, Math.abs(shear));
  }
  const limits = chosen.map((c) => c.limit).filter((l): l is number => l !== null);
  const limit = limits.length > 0 ? Math.min(...limits) : null;
  const top = Math.max(high, limit ?? 0) || 1;
  return {
    title: ply === null ? 'Largest shear of draped plies' : `Shear of ply ${view.ply}`,
    unit: '°',
    colours,
    category,
    legend: { kind: 'scale', low: 0, high: top, ticks: limit === null ? ticks(0, top) : [limit], colour: (v) => shearColour(v, limit) },
    text: (e) => {
      const [shear, cloth] = worst(e);
      return cloth ? `${number(shear, 3)}°${knownTo(part, cloth.drape, e)} in ${part.plies[cloth.ply]!.id}${cloth.limit !== null && Math.abs(shear) > cloth.limit ? `, past its ${number(cloth.limit)}°` : ''}` : 'no cloth here';
    },
    tag: () => '',
  };
}

function byMode(parts: Part[], part: Part, view: View): Colouring {
  const stack = (e: number) => part.stacks[part.stackOf[e]!]!;
  const ply = plyIndex(parts, part, view);
  const which = ply === null ? 'last laid ply' : view.show === 'upto' ? `last ply up to ${view.ply}` : `ply ${view.ply}`;
  const whole = ply === null || view.show !== 'upto';
  /** Plies of a stack that are laid so far. */
  const thickness = (e: number, p: number) => thicknessIn(part, stack(e), stack(e).plies.indexOf(p));
  const laid = (e: number) => stack(e).plies.filter((p) => whole || p <= ply!);
  if (view.colour.startsWith('field:')) {
    const name = view.colour.slice(6);
    const field = part.fields.find((f) => f.name === name);
    const all = (p: Part) => (p.fields.find((f) => f.name === name)?.values ?? []) as Iterable<number>;
    return scaled(parts, part, name, field?.unit ?? '', all, (e) => field?.values[e] ?? NaN);
  }
  const ofSection = ofSections.find((o) => o.key === view.colour);
  if (ofSection) {
    const all = (p: Part) => p.sections.map((_, s) => ofSection.value(p, s));
    const here = all(part);
    return scaled(parts, part, ofSection.label, ofSection.unit(part), all, (e) => here[part.sectionOf[e]!]!);
  }
  if (view.colour.startsWith('stress:')) {
    const component = Number(view.colour.slice(7));
    const stresses = (p: Part) => {
      const one = caseOf(p, view);
      const out = new Float32Array(p.count).fill(NaN);
      if (!one) return out;
      const chosen = plyIndex(parts, p, view);
      for (let e = 0; e < p.count; e++) {
        const { plies } = p.stacks[p.stackOf[e]!]!;
        const layer = chosen === null ? plies.length - 1 : plies.indexOf(chosen);
        if (layer >= 0) out[e] = stressAt(p, e, one, layer, view.face, component);
      }
      return out;
    };
    const here = stresses(part);
    const name = ['s1, along the fibres', 's2, across them', 't12, in the plane'][component]!;
    const of = view.ply ?? 'the last ply';
    return scaled(parts, part, `Stress ${name}, of ${of} at its ${['bottom', 'middle', 'top'][view.face]!}`, part.units.stress, (p) => (p === part ? here : stresses(p)), (e) => here[e]!);
  }
  switch (view.colour) {
    case 'reserve': {
      // What is far from failing is all alike: ten times the load, or three times what the worst place bears.
      const of = (p: Part) => p.results?.reserve ?? new Float32Array(p.count).fill(NaN);
      const least = Math.min(...parts.map((p) => of(p).reduce((low, v) => (v < low ? v : low), Infinity)));
      const power = 10 ** Math.floor(Math.log10(3 * least));
      const most = least > 10 / 3 && Number.isFinite(least) ? [1, 2, 5, 10].map((m) => m * power).find((m) => m >= 3 * least)! : 10;
      const all = of(part);
      const shown = scaled(parts, part, 'Reserve, the least of all cases', `(${most} and more alike)`, (p) => Array.from(of(p), (v) => -Math.min(most, v)), (e) => -Math.min(most, all[e]!));
      const legend = shown.legend.kind === 'scale' ? { ...shown.legend, labels: (v: number) => number(-v) } : shown.legend;
      return { ...shown, legend, text: (e) => (Number.isFinite(all[e]!) ? `reserve ${number(all[e]!)}` : 'nothing here'), tag: () => '' };
    }
    case 'criterion':
      return sorted(part, 'Criterion that decides', (e) => (part.results?.criterion[e] ?? 0) - 1, (k) => ({ label: part.results!.criteria[k]!, tag: '' }));
    case 'critical':
      return sorted(part, 'Ply that fails first', (e) => (part.results?.ply[e] ?? 0) - 1, (k) => ({ label: part.plies[k]!.id, tag: part.plies[k]!.id }));
    case 'shear':
      return shearOf(parts, part, view);
    case 'plies':
      return scaled(parts, part, 'Number of plies', '', (p) => [0, ...p.stacks.map((s) => s.plies.length)], (e) => laid(e).length);
    case 'mass':
      return scaled(
        parts,
        part,
        'Mass per area',
        'kg/m²',
        (p) => (whole ? [] : [0]).concat(p.stacks.map((s) => s.mass)),
        (e) =>
          whole
            ? stack(e).mass
            : laid(e).reduce((sum, p) => sum + thickness(e, p) * part.units.metre * (part.materials[part.plies[p]!.material]!.density ?? 0), 0),
      );
    case 'laminate': {
      const codes = shared(parts, (p) => p.stacks.map((s) => s.code));
      return sorted(part, 'Laminate', (e) => part.stackOf[e]!, (k) => ({ label: part.stacks[k]!.code }), (k) => codes.get(part.stacks[k]!.code)!);
    }
    case 'section':
      return sorted(part, 'Section', (e) => part.sectionOf[e]!, (k) => ({
        label: `${number(part.sections[k]!.thickness)} ${part.units.length}, ${part.sections[k]!.angles.length} layers`,
      }));
    case 'zone': {
      const zones = narrowestZones(part);
      const names = shared(parts, (p) => p.zones.map((z) => z.name));
      return sorted(
        part,
        'Narrowest zone',
        (e) => zones[e]!,
        (k) => ({ label: part.zones[k]!.name, tag: part.zones[k]!.name, zone: part.zones[k]!.name }),
        (k) => names.get(part.zones[k]!.name)!,
      );
    }
    case 'side':
      // Both faces of every element: the shader takes the second colour, hatched, for the back.
      return {
        title: 'Side that is seen',
        unit: '',
        colours: new Uint8Array(4 * part.count).map((_, i) => [...kind(2), fill.plain][i % 4]!),
        category: new Int32Array(part.count),
        legend: {
          kind: 'entries',
          entries: [
            { colour: kind(2), hatched: false, tag: '', label: 'bag side, the last ply', area: NaN },
            { colour: toolSide, hatched: true, tag: '', label: 'tool side, the first ply', area: NaN },
          ],
          more: 0,
        },
        text: () => '',
        tag: () => '',
      };
    case 'angle':
      return angles(part, `Angle of the ${which} in its frame`, ply, view.show, (_, p) => part.plies[p]!.angle);
    case 'turned':
      return angles(part, `Angle of the ${which} from the 0° of the stack`, ply, view.show, (e, p) => {
        const at = stack(e).plies.indexOf(p);
        return part.sections[part.sectionOf[e]!]!.angles[at]!;
      });
    case 'bottom':
    case 'top': {
      const names = shared(parts, (p) => p.materials.map((m) => m.name));
      const material = (e: number) => {
        const plies = laid(e);
        const p = view.colour === 'bottom' ? plies[0] : plies[plies.length - 1];
        return p === undefined ? -1 : part.plies[p]!.material;
      };
      return sorted(
        part,
        view.colour === 'bottom' ? 'Material on the tool side' : 'Material on the bag side',
        material,
        (k) => ({ label: part.materials[k]!.name, tag: part.materials[k]!.mark || String(k + 1), hatched: part.materials[k]!.core }),
        (k) => names.get(part.materials[k]!.name)!,
      );
    }
    case 'differs':
      return sorted(
        part,
        'Against the other one',
        (e) => part.differs?.[e] ?? 0,
        (k) =>
          [
            { label: 'the same', tag: '', colour: pale },
            { label: 'other plies', tag: '≠', colour: kind(1), hatched: true },
            { label: 'only here', tag: '+', colour: kind(5) },
          ][k]!,
      );
    default: {
      const heights = (e: number) => laid(e).reduce((sum, p) => sum + thickness(e, p), 0);
      return scaled(parts, part, 'Thickness', part.units.length, (p) => (whole ? [] : [0]).concat(p.stacks.map((s) => s.thickness)), (e) => (whole ? stack(e).thickness : heights(e)));
    }
  }
}

/** The colouring of one part of the page; elements without the chosen ply or zone are faint. */
export function colouring(parts: Part[], part: Part, view: View): Colouring {
  const out = byMode(parts, part, view);
  const ply = plyIndex(parts, part, view);
  const zone = view.zone === null ? undefined : part.zones.find((z) => z.name === view.zone);
  const hasPly = part.stacks.map(({ plies }) =>
    ply === null || view.show === 'all' ? true : view.show === 'alone' ? plies.includes(ply) : plies.some((p) => p <= ply),
  );
  if ((ply !== null && view.show !== 'all') || zone)
    for (let e = 0; e < part.count; e++) {
      if (hasPly[part.stackOf[e]!] && (!zone || inZone(zone, e))) continue;
      out.colours.set([...pale, fill.faint], 4 * e);
      out.category[e] = -1;
    }
  return out;
}
