// Stresses of plies from what their section does: lamination theory of one place.

import { thicknessIn, type Case, type Part } from './data';

export type Three = [number, number, number];
type Matrix3 = [Three, Three, Three];

/** One place of one layer: z from the mesh, stresses 1, 2, 12 and 13, 23 in ply axes. */
export interface State {
  layer: number;
  place: 0 | 1 | 2;
  z: number;
  stress: Three;
  shear: [number, number];
}
interface Layer {
  bottom: number;
  thickness: number;
  cos: number;
  sin: number;
  /** Plane stress stiffness in the section's axes, of sheared cloth as it is here. */
  turned: Matrix3;
  /** Strains of one kelvin in the section's axes. */
  expansion: Three;
  free: number | null;
}

export const components = ['s1', 's2', 't12', 't13', 't23'] as const;

/** Stresses in ply axes from those in the section's. */
const toPly = (c: number, s: number): Matrix3 => [
  [c * c, s * s, 2 * c * s],
  [s * s, c * c, -2 * c * s],
  [-c * s, c * s, c * c - s * s],
];
const times = (m: Matrix3, v: Three): Three => m.map((r) => r[0] * v[0] + r[1] * v[1] + r[2] * v[2]) as Three;

/** Layers of places with the same section and stack, made once. */
const known = new WeakMap<Part, Map<string, Layer[]>>();

function layersOf(part: Part, element: number): Layer[] {
  const stack = part.stacks[part.stackOf[element]!]!;
  if (stack.thicknesses) return madeFor(part, element);
  if (!known.has(part)) known.set(part, new Map());
  const made = known.get(part)!;
  const key = `${part.stackOf[element]!} ${part.sectionOf[element]!}`;
  let layers = made.get(key);
  if (!layers) made.set(key, (layers = madeFor(part, element)));
  return layers;
}

function madeFor(part: Part, element: number): Layer[] {
  const stack = part.stacks[part.stackOf[element]!]!;
  const section = part.sections[part.sectionOf[element]!]!;
  let z = section.bottom;
  return stack.plies.map((_, i) => {
    const way = section.layers[i]!;
    const thickness = thicknessIn(part, stack, i);
    const angle = ((section.angles[i] ?? 0) * Math.PI) / 180;
    const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
    const [a, b, c, d, e, f, ...expansion] = part.ways.subarray(9 * way, 9 * way + 9) as unknown as [number, number, number, number, number, number, ...Three];
    const turned: Matrix3 = [
      [a, b, c],
      [b, d, e],
      [c, e, f],
    ];
    const layer = { bottom: z, thickness, cos, sin, turned, expansion, free: part.freeOfStress[way] ?? null };
    z += thickness;
    return layer;
  });
}

/** Solves six equations by elimination. */
function solve(matrix: number[][], right: number[]): number[] {
  const m = matrix.map((row, i) => [...row, right[i]!]);
  for (let k = 0; k < 6; k++) {
    let best = k;
    for (let i = k + 1; i < 6; i++) if (Math.abs(m[i]![k]!) > Math.abs(m[best]![k]!)) best = i;
    [m[k], m[best]] = [m[best]!, m[k]!];
    for (let i = 0; i < 6; i++) {
      if (i === k) continue;
      const f = m[i]![k]! / m[k]![k]!;
      for (let j = k; j < 7; j++) m[i]![j]! -= f * m[k]![j]!;
    }
  }
  return m.map((row, i) => row[6]! / row[i]!);
}

/** A, B, D about a height. */
function abd(layers: Layer[], about: number): number[][] {
  const out = Array.from({ length: 6 }, () => new Array<number>(6).fill(0));
  for (const l of layers) {
    const middle = l.bottom + l.thickness / 2 - about;
    const weights = [l.thickness, l.thickness * middle, l.thickness * middle ** 2 + l.thickness ** 3 / 12];
    for (let r = 0; r < 3; r++)
      for (let c = 0; c < 3; c++) {
        const q = l.turned[r]![c]!;
        out[r]![c]! += weights[0]! * q;
        out[r]![c + 3]! += weights[1]! * q;
        out[r + 3]![c]! += weights[1]! * q;
        out[r + 3]![c + 3]! += weights[2]! * q;
      }
  }
  return out;
}

/** Kelvins above a layer's stress-free temperature, at a height. */
function warmth(one: Case, element: number, layers: Layer[], l: Layer, z: number): number {
  if (!one.heat) return 0;
  const [tool, bag, from, factor] = one.heat.subarray(4 * element, 4 * element + 4) as unknown as [number, number, number, number];
  const last = layers[layers.length - 1]!;
  const low = layers[0]!.bottom;
  const share = (z - low) / (last.bottom + last.thickness - low || 1);
  return tool + share * (bag - tool) - (l.free === null ? from : factor * l.free);
}

/** Stress in ply axes at a height of a layer. */
function plyStress(one: Case, element: number, layers: Layer[], l: Layer, z: number): Three {
  const { strain, curvature } = sectionState(one.values, element);
  const kelvins = warmth(one, element, layers, l, z);
  const elastic = strain.map((v, k) => v + z * curvature[k]! - kelvins * l.expansion[k]!) as Three;
  return times(toPly(l.cos, l.sin), times(l.turned, elastic));
}

const sectionState = (values: Float32Array, element: number) => {
  const v = values.subarray(8 * element, 8 * element + 8);
  return { strain: [v[0]!, v[1]!, v[2]!] as Three, curvature: [v[3]!, v[4]!, v[5]!] as Three, Q: [v[6]!, v[7]!] as [number, number] };
};

/** What the section carries about the mesh: N, M, Q. */
export function forces(part: Part, element: number, one: Case) {
  const layers = layersOf(part, element);
  const [N, M]: [number[], number[]] = [[0, 0, 0], [0, 0, 0]];
  for (const l of layers)
    for (const [at, weight] of [
      [0, 1 / 6],
      [0.5, 4 / 6],
      [1, 1 / 6],
    ] as const) {
      const z = l.bottom + at * l.thickness;
      const [s1, s2, t] = plyStress(one, element, layers, l, z);
      const [c, s] = [l.cos, l.sin];
      [c * c * s1 + s * s * s2 - 2 * c * s * t, s * s * s1 + c * c * s2 + 2 * c * s * t, c * s * (s1 - s2) + (c * c - s * s) * t].forEach((v, k) => {
        N[k]! += weight * l.thickness * v;
        M[k]! += weight * l.thickness * z * v;
      });
    }
  return { N, M, Q: sectionState(one.values, element).Q };
}

/** One stress in the plane, of one layer at one face: quickly, for colours. */
export function stressAt(part: Part, element: number, one: Case, layer: number, place: 0 | 1 | 2, component: number): number {
  const layers = layersOf(part, element);
  const l = layers[layer]!;
  return plyStress(one, element, layers, l, l.bottom + (place * l.thickness) / 2)[component]!;
}

/** Every layer at bottom, middle and top; shear through the thickness by equilibrium with Q = M,x. */
export function statesAt(part: Part, element: number, one: Case): State[] {
  const layers = layersOf(part, element);
  const { Q } = sectionState(one.values, element);
  const h = layers.reduce((sum, l) => sum + l.thickness, 0);
  const middle = layers[0]!.bottom + h / 2;
  const about = abd(layers, middle);
  const x = solve(about, [0, 0, 0, 1, 0, 0]);
  const y = solve(about, [0, 0, 0, 0, 1, 0]);
  // d/dz of the stresses xz, yz for unit moment gradients along x and along y, at a height from the middle.
  const flow = (l: Layer, z: number, power: number): [number, number, number, number] => {
    const part_ = (s: number[]) => times(l.turned, (power === 0 ? s.slice(0, 3) : s.slice(3)) as Three);
    const [a, b] = [part_(x), part_(y)];
    const w = power === 0 ? z : (z * z) / 2;
    return [-a[0] * w, -b[2] * w, -a[2] * w, -b[1] * w];
  };
  let below: [number, number, number, number] = [0, 0, 0, 0];
  const out: State[] = [];
  layers.forEach((l, layer) => {
    const low = l.bottom - middle;
    const gathered = (z: number) =>
      below.map((b, k) => b + flow(l, z, 0)[k]! - flow(l, low, 0)[k]! + flow(l, z, 1)[k]! - flow(l, low, 1)[k]!) as typeof below;
    for (const place of [0, 1, 2] as const) {
      const z = l.bottom + (place * l.thickness) / 2;
      const t = gathered(z - middle);
      const [xz, yz] = [t[0] * Q[0] + t[1] * Q[1], t[2] * Q[0] + t[3] * Q[1]];
      out.push({
        layer,
        place,
        z,
        stress: plyStress(one, element, layers, l, z),
        shear: [l.cos * xz + l.sin * yz, -l.sin * xz + l.cos * yz],
      });
    }
    below = gathered(low + l.thickness);
  });
  return out;
}
