// What the program packed behind this page: src/page/page.cpp says how it lies there.

export interface Block {
  at: number;
  count: number;
  type: 'f32' | 'f64' | 'i32' | 'u32' | 'i16' | 'u8';
}
export type Vector = [number, number, number];
export interface Constants {
  Ex: number;
  Ey: number;
  Gxy: number;
  nuxy: number;
}
export interface Material {
  name: string;
  mark: string;
  kind: string;
  core: boolean;
  density: number | null; // none where it is not known
}
export interface Zone {
  name: string;
  declared: boolean;
  elements: number;
  area: number;
  mass: number;
  bits: Uint8Array;
}
export interface Ply {
  id: string;
  material: number;
  frame: number;
  zone: number;
  angle: number;
  /** In Part.drapes. */
  drape: number | null;
  thickness: number;
  group: string;
  note: string;
  elements: number;
  area: number;
  mass: number | null;
  pieces: number;
}
export interface Stack {
  code: string;
  plies: number[];
  /** Of each ply, where the thickness of one varies: then the stack is that of one section. */
  thicknesses?: number[];
  area: number;
  thickness: number;
  mass: number;
}
/** How thick the i-th ply of a stack is. */
export function thicknessIn(part: Part, stack: Stack, i: number): number {
  return stack.thicknesses?.[i] ?? part.plies[stack.plies[i]!]!.thickness;
}
export interface Section {
  thickness: number;
  bottom: number;
  /** Of each layer from the element's 0 degrees. */
  angles: number[];
  /** What each layer is to the section: nine of Part.ways, and one of freeOfStress. */
  layers: number[];
  /** In plane free to bend, in plane with bending held, in bending: Ex, Ey, Gxy, nuxy. */
  constants: number[][];
  words: string[];
}
export interface Field {
  name: string;
  unit: string;
  values: Float32Array;
}
export interface Shows {
  element?: number;
  ply?: number;
  zone?: number;
}
/** Edges of plies that end together, as pieces of lines: `count` of them from `from` on, six numbers each. */
export interface Edges {
  points: Float32Array;
  lines: { plies: number[]; from: number; count: number }[];
}
export interface Cut {
  length: number;
  /** Ply, from, to, bottom at both, thickness at both. */
  bands: number[][];
  /** Ply, place, whether it ends there. */
  edges: [number, number, boolean][];
}
export interface Ramp {
  name: string;
  from: number;
  to: number | null;
  run: number;
  length: number;
  steps: { plies: number[]; by: number; thickness: number; run: number; symmetric: boolean; balanced: boolean }[];
  /** Across it. */
  cut: Cut | null;
}
/** How cloth lies, per drawn element; not a number, or no vector, where it does not. */
export interface Drape {
  name: string;
  angle: number;
  /** Degrees from warp to weft, unsheared. */
  rest: number;
  warp: Float32Array;
  weft: Float32Array;
  /** Degrees; and what that is known to. */
  shear: Float32Array;
  known: Float32Array;
  /** Two numbers: along the warp from the seed, and square to it. */
  cloth: Float32Array;
  /** The piece of cloth that lies there, from 1. */
  piece: Uint8Array;
  /** Yarns as pieces of lines. */
  net: Float32Array;
}
export interface Flat {
  piece: number;
  outlines: Float32Array[];
  area: number;
  seed: boolean;
  low: [number, number];
  high: [number, number];
}
/** What came of a draped ply. */
export interface Cloth {
  ply: number;
  drape: number;
  limit: number | null;
  strips: boolean;
  area: number;
  reached: number;
  mean: number;
  least: number;
  most: number;
  past: number;
  thickest: number;
  gap: number;
  overlap: number;
  error: number | null;
  flat: Flat[];
}
/** What the part does in a case, or in a mode, whose size means nothing. */
export interface Shape {
  name: string;
  mode: boolean;
  largest: number;
  /** Three numbers per point. */
  moves: Float32Array;
}
export interface Worst {
  factor: number;
  mode: string;
  criterion: string;
  ply: number;
  place: string;
  /** Drawn. */
  element: number;
  case: string;
  doubtful: boolean;
  doubt: string;
}
export interface Case {
  name: string;
  /** Six numbers for each drawn element: strain and curvature of the section. */
  values: Float32Array;
  /** Eight: N, M and Q, as every table has them. */
  carried: Float32Array;
  /** Twelve numbers for each drawn element: how strain and curvature change along x, then along y. */
  changes: Float32Array;
  /** Shear of plies, 13 and 23 at three places of each layer, of elements on which a layer runs out: where it begins, by drawn
   *  element, and all of it. */
  tapered: Map<number, number>;
  shear: Float32Array;
  /** Four numbers for each drawn element, of a case with temperatures: of the tool face, of the bag face, where materials that
   *  do not say theirs are free of stress, all times the load's factor, and that. */
  heat: Float32Array | null;
}
/** One criterion and pair of components of one section's load. */
export interface Curve {
  pair: number;
  criterion: string;
  from: number;
  count: number;
  /** What 30,000 stands for, of both components. */
  far: [number, number];
  /** Where another ply or mode begins to decide. */
  pieces: Piece[];
}
/** Place along the curve, layer (nothing where the direction is open), mode. */
export type Piece = [number, number | null, string];
export interface Envelopes {
  pairs: [number, number][];
  components: string[];
  sections: { section: number; curves: Curve[] }[];
  points: Int16Array;
}
/** The points of a curve of an envelope. */
export const pointsOf = (envelopes: Envelopes, c: Curve): [number, number][] =>
  Array.from({ length: c.count }, (_, i) => [0, 1].map((k) => (envelopes.points[2 * (c.from + i) + k]! / 30000) * c.far[k]!) as [number, number]);
/** What the solver answered. */
export interface Results {
  /** Reserves are of solids, sections planes through their strains. */
  solids: boolean;
  shapes: Shape[];
  /** Strain, curvature (x, y, xy) and transverse forces of each drawn element's section, about the mesh: eight numbers. */
  cases: Case[];
  worst: Worst[];
  criteria: string[];
  /** Per drawn element; not a number where nothing fails. */
  reserve: Float32Array;
  /** From 1; 0 is none. */
  criterion: Uint8Array;
  ply: Uint32Array;
}
export interface Finding {
  severity: 'note' | 'warning' | 'error';
  code: string;
  what: string;
  where: string;
  remedy: string;
  shows: Shows | null;
}
export interface Change {
  what: 'added' | 'removed' | 'moved' | 'changed';
  kind: string;
  name: string;
  detail: string;
}
export interface Figure {
  name: string;
  unit: string;
  before: number;
  after: number;
}
export interface Comparison {
  changes: Change[];
  figures: Figure[];
}

/** Numbers of one section: upper triangles. */
export interface Matrices {
  A: number[][];
  B: number[][];
  D: number[][];
  H: number[][];
  /** Compliance about the laminate's middle, free to bend; and the inverse of A. */
  a: number[][];
  d: number[][];
  held: number[][];
}
const perSection = 39;

export interface Part {
  name: string;
  file: string;
  variant: string;
  mesh: string;
  flush: string;
  units: { length: string; stress: string; force: string; line_force: string; metre: number };
  elements: number;
  cell: number;
  area: number;
  mass: number;
  centre: Vector;
  points: Float32Array;
  /** Four per drawn element; the last of a triangle is its third again. */
  corners: Uint32Array;
  ids: Float64Array;
  areas: Float32Array;
  stackOf: Uint32Array;
  sectionOf: Uint32Array;
  /** Directions of 0 degrees, three numbers per drawn element; null where no ply uses the frame. */
  frames: { name: string; directions: Float32Array | null }[];
  materials: Material[];
  zones: Zone[];
  plies: Ply[];
  stacks: Stack[];
  sections: Section[];
  /** Of layers in their sections' axes: Q11, Q12, Q16, Q22, Q26, Q66, strains of one kelvin. */
  ways: Float32Array;
  freeOfStress: (number | null)[];
  sectionNumbers: Float32Array;
  fields: Field[];
  edges: Edges;
  ramps: Ramp[];
  /** Sections that were asked for. */
  profiles: { from: Vector; to: Vector; cut: Cut }[];
  drapes: Drape[];
  cloths: Cloth[];
  findings: Finding[];
  differs: Uint8Array | null;
  results: Results | null;
  envelopes: Envelopes | null;
  /** Worked out here: per drawn element and per point. */
  count: number;
  centres: Float32Array;
  normals: Float32Array;
  pointNormals: Float32Array;
  low: Vector;
  high: Vector;
}
export interface Page {
  madeBy: string;
  parts: Part[];
  comparison: Comparison | null;
}

const sizes = { f32: 4, f64: 8, i32: 4, u32: 4, i16: 2, u8: 1 } as const;

/** The numbers of a block, their bytes put back in order. */
function numbers(block: Block, bytes: Uint8Array) {
  const size = sizes[block.type];
  const out = new Uint8Array(block.count * size);
  for (let b = 0; b < size; b++) {
    const from = block.at + b * block.count;
    for (let i = 0, to = b; i < block.count; i++, to += size) out[to] = bytes[from + i]!;
  }
  const of = out.buffer;
  switch (block.type) {
    case 'f32':
      return new Float32Array(of);
    case 'f64':
      return new Float64Array(of);
    case 'i32':
      return new Int32Array(of);
    case 'u32':
      return new Uint32Array(of);
    case 'i16':
      return new Int16Array(of);
    case 'u8':
      return out;
  }
}

async function unzipped(text: string): Promise<Uint8Array> {
  const packed = atob(text.trim());
  const bytes = new Uint8Array(packed.length);
  for (let i = 0; i < packed.length; i++) bytes[i] = packed.charCodeAt(i);
  const stream = new Blob([bytes]).stream().pipeThrough(new DecompressionStream('gzip'));
  return new Uint8Array(await new Response(stream).arrayBuffer());
}

/** Centres and unit normals of elements, normals of points, and the box that holds all. */
function geometry(points: Float32Array, corners: Uint32Array) {
  const count = corners.length / 4;
  const centres = new Float32Array(3 * count);
  const normals = new Float32Array(3 * count);
  const pointNormals = new Float32Array(points.length);
  for (let e = 0; e < count; e++) {
    const [a, b, c, d] = [0, 1, 2, 3].map((i) => 3 * corners[4 * e + i]!) as [number, number, number, number];
    const triangle = c === d;
    const p = (i: number, k: number) => points[i + k]!;
    const u: number[] = [];
    const v: number[] = [];
    for (let k = 0; k < 3; k++) {
      u.push(triangle ? p(b, k) - p(a, k) : p(c, k) - p(a, k));
      v.push(triangle ? p(c, k) - p(a, k) : p(d, k) - p(b, k));
      centres[3 * e + k] = triangle ? (p(a, k) + p(b, k) + p(c, k)) / 3 : (p(a, k) + p(b, k) + p(c, k) + p(d, k)) / 4;
    }
    const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
    for (const at of triangle ? [a, b, c] : [a, b, c, d]) for (let k = 0; k < 3; k++) pointNormals[at + k]! += n[k]!;
    const length = Math.hypot(n[0]!, n[1]!, n[2]!) || 1;
    for (let k = 0; k < 3; k++) normals[3 * e + k] = n[k]! / length;
  }
  for (let i = 0; i < pointNormals.length; i += 3) {
    const length = Math.hypot(pointNormals[i]!, pointNormals[i + 1]!, pointNormals[i + 2]!) || 1;
    for (let k = 0; k < 3; k++) pointNormals[i + k]! /= length;
  }
  const low: Vector = [Infinity, Infinity, Infinity];
  const high: Vector = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i++) {
    const k = i % 3;
    low[k] = Math.min(low[k]!, points[i]!);
    high[k] = Math.max(high[k]!, points[i]!);
  }
  return { count, centres, normals, pointNormals, low, high };
}

/** Unit vectors from angles about the normal that begin at an element's first side. */
function directions(angles: Int16Array, points: Float32Array, corners: Uint32Array, normals: Float32Array) {
  const out = new Float32Array(3 * angles.length);
  for (let e = 0; e < angles.length; e++) {
    if (angles[e] === -32768) continue;
    const a = 3 * corners[4 * e]!;
    const b = 3 * corners[4 * e + 1]!;
    const [nx, ny, nz] = [normals[3 * e]!, normals[3 * e + 1]!, normals[3 * e + 2]!];
    let [x, y, z] = [points[b]! - points[a]!, points[b + 1]! - points[a + 1]!, points[b + 2]! - points[a + 2]!];
    const off = x * nx + y * ny + z * nz;
    x -= off * nx;
    y -= off * ny;
    z -= off * nz;
    const length = Math.hypot(x, y, z) || 1;
    const angle = (angles[e]! / 32767) * Math.PI;
    const cos = Math.cos(angle) / length;
    const sin = Math.sin(angle) / length;
    out[3 * e] = cos * x + sin * (ny * z - nz * y);
    out[3 * e + 1] = cos * y + sin * (nz * x - nx * z);
    out[3 * e + 2] = cos * z + sin * (nx * y - ny * x);
  }
  return out;
}

// The head is what the program wrote a moment ago for this very page: it is taken at its word.
// eslint-disable-next-line @typescript-eslint/no-explicit-any
type Head = any;

function part(head: Head, bytes: Uint8Array): Part {
  const read = (block: Block) => numbers(block, bytes);
  const points = read(head.shape.points) as Float32Array;
  const corners = new Uint32Array((read(head.shape.corners) as Int32Array).buffer);
  for (let i = 4; i < corners.length; i++) corners[i] = corners[i]! + corners[i - 4]!;
  const shape = geometry(points, corners);
  return {
    ...head,
    ...shape,
    points,
    corners,
    ids: read(head.shape.ids),
    areas: read(head.shape.areas),
    stackOf: read(head.shape.stacks),
    sectionOf: read(head.shape.sections),
    frames: head.frames.map((f: Head) => ({
      name: f.name,
      directions: f.angles ? directions(read(f.angles) as Int16Array, points, corners, shape.normals) : null,
    })),
    zones: head.zones.map((z: Head) => ({ ...z, bits: read(z.bits) })),
    sections: head.sections.list,
    sectionNumbers: read(head.sections.numbers),
    ways: read(head.sections.ways) as Float32Array,
    freeOfStress: head.sections.free,
    fields: head.fields.map((f: Head) => ({ ...f, values: read(f.values) })),
    edges: { ...head.edges, points: read(head.edges.points) },
    drapes: head.drapes.map((d: Head) => ({
      ...d,
      warp: directions(read(d.warp) as Int16Array, points, corners, shape.normals),
      weft: directions(read(d.weft) as Int16Array, points, corners, shape.normals),
      shear: read(d.shear),
      known: read(d.known),
      cloth: read(d.cloth),
      piece: read(d.piece),
      net: read(d.net),
    })),
    cloths: head.cloths.map((c: Head) => ({ ...c, flat: c.flat.map((f: Head) => ({ ...f, outlines: f.outlines.map(read) })) })),
    differs: head.differs ? read(head.differs) : null,
    results: head.results && {
      ...head.results,
      shapes: head.results.shapes.map((s: Head) => ({ ...s, moves: read(s.moves) })),
      cases: head.results.cases.map((c: Head) => {
        const first = read(c.first);
        return {
          ...c,
          values: read(c.values),
          carried: read(c.carried),
          changes: read(c.changes),
          tapered: new Map([...read(c.tapered)].map((e, i) => [e, first[i]!])),
          shear: read(c.shear),
          heat: c.heat && read(c.heat),
        };
      }),
      reserve: read(head.results.reserve),
      criterion: read(head.results.criterion),
      ply: read(head.results.ply),
    },
    envelopes: head.envelopes && { ...head.envelopes, points: read(head.envelopes.points) },
  };
}

/** Reads what stands in the page. */
export async function open(text: string): Promise<Page> {
  const bytes = await unzipped(text);
  const length = Number(new DataView(bytes.buffer).getBigUint64(0, true));
  const head: Head = JSON.parse(new TextDecoder().decode(bytes.subarray(8, 8 + length)));
  const arrays = bytes.subarray(8 + length);
  return { madeBy: head.made_by, parts: head.parts.map((p: Head) => part(p, arrays)), comparison: head.comparison ?? null };
}

export function inZone(zone: Zone, element: number): boolean {
  return ((zone.bits[element >> 3]! >> (element & 7)) & 1) === 1;
}

export function matrices(of: Part, section: number): Matrices {
  const v = of.sectionNumbers.subarray(section * perSection, (section + 1) * perSection);
  const three = (at: number) => [
    [v[at]!, v[at + 1]!, v[at + 2]!],
    [v[at + 1]!, v[at + 3]!, v[at + 4]!],
    [v[at + 2]!, v[at + 4]!, v[at + 5]!],
  ];
  return {
    A: three(0),
    B: three(6),
    D: three(12),
    H: [
      [v[18]!, v[19]!],
      [v[19]!, v[20]!],
    ],
    a: three(21),
    d: three(27),
    held: three(33),
  };
}

/** The narrowest zone that holds an element: the one of the smallest area; 0 is everything. */
export function narrowestZones(of: Part): Uint16Array {
  const out = new Uint16Array(of.count);
  const order = of.zones.map((_, z) => z).sort((a, b) => of.zones[b]!.area - of.zones[a]!.area || b - a);
  for (const z of order) {
    const zone = of.zones[z]!;
    for (let e = 0; e < of.count; e++) if (inZone(zone, e)) out[e] = z;
  }
  return out;
}

const vectorAt = (all: Float32Array, element: number): Vector | null => {
  const d: Vector = [all[3 * element]!, all[3 * element + 1]!, all[3 * element + 2]!];
  return d[0] === 0 && d[1] === 0 && d[2] === 0 ? null : d;
};

/** The weft of a draped ply on an element. */
export function weft(of: Part, ply: number, element: number): Vector | null {
  const { drape } = of.plies[ply]!;
  return drape === null ? null : vectorAt(of.drapes[drape]!.weft, element);
}

/** The fibre direction of a ply on an element, or null where it has none. */
export function fibre(of: Part, ply: number, element: number): Vector | null {
  const { frame, angle, drape } = of.plies[ply]!;
  if (drape !== null) return vectorAt(of.drapes[drape]!.warp, element);
  const all = of.frames[frame]!.directions;
  if (!all) return null;
  const [x, y, z] = [all[3 * element]!, all[3 * element + 1]!, all[3 * element + 2]!];
  if (x === 0 && y === 0 && z === 0) return null;
  const [nx, ny, nz] = [of.normals[3 * element]!, of.normals[3 * element + 1]!, of.normals[3 * element + 2]!];
  const cos = Math.cos((angle * Math.PI) / 180);
  const sin = Math.sin((angle * Math.PI) / 180);
  return [
    cos * x + sin * (ny * z - nz * y),
    cos * y + sin * (nz * x - nx * z),
    cos * z + sin * (nx * y - ny * x),
  ];
}
