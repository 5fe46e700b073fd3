// Layers as solids: how high the laminate stands on every element, and its edges where it changes, ends or is cut.

import { direction, kind, type Colour } from './colours';
import { fill } from './colouring';
import { fibre, weft, thicknessIn, type Part, type Vector } from './data';
import type { View } from './view';

/** Sides of elements that have a neighbour with another stack, or none: element, and which side. */
export interface Steps {
  elements: Uint32Array;
  sides: Uint8Array;
}
/** Pairs of points of every side, and the elements on both sides of it; the second is `none` on a border. */
export interface Sides {
  count: number;
  points: Uint32Array;
  elements: Uint32Array;
  /** Which side of the first element. */
  side: Uint8Array;
}
export const none = 0xffffffff;

/** Every side of the surface once, by a table of the points' sides. At junctions of three the third stands alone. */
export function sidesOf(part: Part): Sides {
  const most = 4 * part.count;
  const points = new Uint32Array(2 * most);
  const elements = new Uint32Array(2 * most);
  const side = new Uint8Array(most);
  let size = 1;
  while (size < 2 * most) size *= 2;
  const table = new Int32Array(size).fill(-1);
  let count = 0;
  for (let e = 0; e < part.count; e++) {
    const corners = part.corners.subarray(4 * e, 4 * e + 4);
    const n = corners[2] === corners[3] ? 3 : 4;
    for (let k = 0; k < n; k++) {
      const a = Math.min(corners[k]!, corners[(k + 1) % n]!);
      const b = Math.max(corners[k]!, corners[(k + 1) % n]!);
      let at = (Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b)) & (size - 1);
      for (;;) {
        const s = table[at]!;
        if (s < 0) {
          table[at] = count;
          points[2 * count] = a;
          points[2 * count + 1] = b;
          elements[2 * count] = e;
          elements[2 * count + 1] = none;
          side[count++] = k;
          break;
        }
        if (points[2 * s] === a && points[2 * s + 1] === b && elements[2 * s + 1] === none) {
          elements[2 * s + 1] = e;
          break;
        }
        at = (at + 1) & (size - 1);
      }
    }
  }
  return { count, points: points.subarray(0, 2 * count), elements: elements.subarray(0, 2 * count), side: side.subarray(0, count) };
}

/** A layer that is drawn: z from the mesh. */
interface Slab {
  low: number;
  high: number;
  colour: Colour;
  fill: number;
}

/** The layers of an element as the view has them. */
export function slabsOf(part: Part, element: number, view: View, ply: number | null): Slab[] {
  const stack = part.stacks[part.stackOf[element]!]!;
  const section = part.sections[part.sectionOf[element]!]!;
  const out: Slab[] = [];
  let z = section.bottom;
  stack.plies.forEach((p, i) => {
    const { material } = part.plies[p]!;
    const low = z;
    z += thicknessIn(part, stack, i);
    if (ply !== null && ((view.show === 'alone' && p !== ply) || (view.show === 'upto' && p > ply))) return;
    const core = part.materials[material]!.core;
    const byMaterial = view.colour === 'bottom' || view.colour === 'top';
    const colour = byMaterial ? kind(material) : core ? ([236, 224, 186] as Colour) : direction(section.angles[i]!);
    out.push({ low, high: z, colour, fill: core ? fill.hatched : fill.plain });
  });
  return out;
}

/** Low and high of what is drawn on every element, two numbers each; high is low where nothing is. */
export function heightsOf(part: Part, view: View, ply: number | null): Float32Array {
  const out = new Float32Array(2 * part.count);
  const known = new Map<number, [number, number]>();
  for (let e = 0; e < part.count; e++) {
    const s = part.stackOf[e]!;
    let found = known.get(s);
    if (!found) {
      const slabs = slabsOf(part, e, view, ply);
      found = slabs.length > 0 ? [slabs[0]!.low, slabs[slabs.length - 1]!.high] : [0, 0];
      known.set(s, found);
    }
    out[2 * e] = found[0];
    out[2 * e + 1] = found[1];
  }
  return out;
}

/** Rectangles as buffers; they grow. */
export class Rectangles {
  count = 0;
  private room = 1024;
  position = new Float32Array(12 * this.room);
  along = new Float32Array(12 * this.room);
  z = new Float32Array(4 * this.room);
  tint = new Uint8Array(16 * this.room);

  /** From p (with the normal n) to q (with m), from one height to another. */
  add(p: ArrayLike<number>, n: ArrayLike<number>, q: ArrayLike<number>, m: ArrayLike<number>, slab: Slab) {
    if (this.count === this.room) this.grow();
    const r = this.count++;
    [p, q, q, p].forEach((v, i) => this.position.set([v[0]!, v[1]!, v[2]!], 12 * r + 3 * i));
    [n, m, m, n].forEach((v, i) => this.along.set([v[0]!, v[1]!, v[2]!], 12 * r + 3 * i));
    this.z.set([slab.low, slab.low, slab.high, slab.high], 4 * r);
    for (let i = 0; i < 4; i++) this.tint.set([...slab.colour, slab.fill], 16 * r + 4 * i);
  }

  private grow() {
    this.room *= 2;
    const larger = <A extends Float32Array | Uint8Array>(old: A, each: number): A => {
      const out = new (old.constructor as new (n: number) => A)(each * this.room);
      out.set(old as never);
      return out;
    };
    this.position = larger(this.position, 12);
    this.along = larger(this.along, 12);
    this.z = larger(this.z, 4);
    this.tint = larger(this.tint, 16);
  }
}

/** Edges of the layers where a neighbour has another stack, or there is none. */
export function walls(part: Part, sides: Sides, view: View, ply: number | null): Rectangles {
  const out = new Rectangles();
  const point = (i: number) => part.points.subarray(3 * i, 3 * i + 3);
  const normal = (i: number) => part.pointNormals.subarray(3 * i, 3 * i + 3);
  for (let s = 0; s < sides.count; s++) {
    const e = sides.elements[2 * s]!;
    const f = sides.elements[2 * s + 1]!;
    if (f !== none && part.stackOf[e] === part.stackOf[f]) continue;
    const k = sides.side[s]!;
    const n = part.corners[4 * e + 2] === part.corners[4 * e + 3] ? 3 : 4;
    const a = part.corners[4 * e + k]!;
    const b = part.corners[4 * e + ((k + 1) % n)]!;
    for (const slab of slabsOf(part, e, view, ply)) out.add(point(a), normal(a), point(b), normal(b), slab);
    if (f === none) continue;
    for (const slab of slabsOf(part, f, view, ply)) out.add(point(b), normal(b), point(a), normal(a), slab);
  }
  return out;
}

/** A plane: points with dot(p, normal) = at lie on it. */
export interface Plane {
  normal: Vector;
  at: number;
}

/** Where the plane crosses elements: layers as rectangles in it, and the line itself as pairs of points. */
export function cutThrough(part: Part, plane: Plane, view: View, ply: number | null) {
  const rectangles = new Rectangles();
  const line: number[] = [];
  const { normal: m, at } = plane;
  const height = new Float32Array(part.points.length / 3);
  for (let i = 0; i < height.length; i++)
    height[i] = part.points[3 * i]! * m[0] + part.points[3 * i + 1]! * m[1] + part.points[3 * i + 2]! * m[2] - at;
  for (let e = 0; e < part.count; e++) {
    const n = part.corners[4 * e + 2] === part.corners[4 * e + 3] ? 3 : 4;
    const ends: { p: Vector; n: Vector }[] = [];
    for (let k = 0; k < n && ends.length < 2; k++) {
      const a = part.corners[4 * e + k]!;
      const b = part.corners[4 * e + ((k + 1) % n)]!;
      const [u, v] = [height[a]!, height[b]!];
      if (u < 0 === v < 0) continue;
      const t = u / (u - v);
      const mix = (all: Float32Array) => [0, 1, 2].map((i) => all[3 * a + i]! * (1 - t) + all[3 * b + i]! * t) as Vector;
      const along = mix(part.pointNormals);
      const off = along[0] * m[0] + along[1] * m[1] + along[2] * m[2];
      ends.push({ p: mix(part.points), n: along.map((c, i) => c - off * m[i]!) as Vector });
    }
    if (ends.length < 2) continue;
    const [p, q] = ends as [{ p: Vector; n: Vector }, { p: Vector; n: Vector }];
    line.push(...p.p, ...q.p);
    if (view.layers > 0) for (const slab of slabsOf(part, e, view, ply)) rectangles.add(p.p, p.n, q.p, q.n, slab);
  }
  return { rectangles, line: new Float32Array(line) };
}

/**
 * Elements spread evenly enough to carry arrows: the one nearest to the middle of each cube of a grid, by itself for
 * each of six ways that elements face, so that both skins of a thin part have their own.
 */
export function spread(part: Part, step: number, wanted: (element: number) => boolean): number[] {
  const best = new Map<number, [number, number]>();
  for (let e = 0; e < part.count; e++) {
    if (!wanted(e)) continue;
    const n = part.normals.subarray(3 * e, 3 * e + 3);
    const axis = Math.abs(n[0]!) > Math.abs(n[1]!) ? (Math.abs(n[0]!) > Math.abs(n[2]!) ? 0 : 2) : Math.abs(n[1]!) > Math.abs(n[2]!) ? 1 : 2;
    let key = 2 * axis + (n[axis]! > 0 ? 1 : 0);
    let off = 0;
    for (let k = 0; k < 3; k++) {
      const x = (part.centres[3 * e + k]! - part.low[k]!) / step;
      const cell = Math.floor(x);
      key = key * 4096 + cell;
      off += (x - cell - 0.5) ** 2;
    }
    const found = best.get(key);
    if (!found || off < found[1]) best.set(key, [e, off]);
  }
  return [...best.values()].map(([e]) => e);
}

/** What arrows show on an element: root and unit direction, or null. */
export function arrowAt(part: Part, element: number, view: View, ply: number | null): Vector | null {
  const stack = part.stacks[part.stackOf[element]!]!;
  if (ply !== null && ply < 0 && view.arrows !== 'normal') return null;
  switch (view.arrows) {
    case 'normal':
      return [part.normals[3 * element]!, part.normals[3 * element + 1]!, part.normals[3 * element + 2]!];
    case 'zero': {
      const frame = ply === null ? part.plies[stack.plies[0]!]!.frame : part.plies[ply]!.frame;
      const all = part.frames[frame]!.directions;
      if (!all) return null;
      const d: Vector = [all[3 * element]!, all[3 * element + 1]!, all[3 * element + 2]!];
      return d[0] === 0 && d[1] === 0 && d[2] === 0 ? null : d;
    }
    case 'weft': {
      const p = ply ?? stack.plies.findLast((q) => part.plies[q]!.drape !== null) ?? -1;
      return p >= 0 && stack.plies.includes(p) ? weft(part, p, element) : null;
    }
    case 'fibre': {
      const p = ply ?? stack.plies[stack.plies.length - 1]!;
      return stack.plies.includes(p) ? fibre(part, p, element) : null;
    }
    default:
      return null;
  }
}
