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

/** Kelvins above a layer's stress-free temperature, at a height. */
function warmth(one: Case, element: number, layers: Layer[], l: Layer, z: number): number {
  if (!one.heat) return 0;
  const [tool, bag, from, factor] = one.heat.subarray(4 * element, 4 * element + 4) as unknown as [number, number, number, number];
  const last = layers[layers.length - 1]!;
  const low = layers[0]!.bottom;
  const share = (z - low) / (last.bottom + last.thickness - low || 1);
  return tool + share * (bag - tool) - (l.free === null ? from : factor * l.free);
}

/** Stress in the section's axes at a height of a layer. */
function stressOf(one: Case, element: number, layers: Layer[], l: Layer, z: number): Three {
  const { strain, curvature } = sectionState(one.values, element);
  const kelvins = warmth(one, element, layers, l, z);
  return times(l.turned, strain.map((v, k) => v + z * curvature[k]! - kelvins * l.expansion[k]!) as Three);
}

/** The same in ply axes. */
const plyStress = (one: Case, element: number, layers: Layer[], l: Layer, z: number): Three =>
  times(toPly(l.cos, l.sin), stressOf(one, element, layers, l, z));

const sectionState = (values: Float32Array, element: number) => {
  const v = values.subarray(6 * element, 6 * element + 6);
  return { strain: [v[0]!, v[1]!, v[2]!] as Three, curvature: [v[3]!, v[4]!, v[5]!] as Three };
};

/** What the section carries about the mesh: N, M, Q. */
export function forces(one: Case, element: number) {
  const v = [...one.carried.subarray(8 * element, 8 * element + 8)];
  return { N: v.slice(0, 3), M: v.slice(3, 6), Q: v.slice(6) };
}

/** One stress in the plane, of one layer at one face: quickly, for colours. */
export function stressAt(part: Part, element: number, one: Case, layer: number, place: 0 | 1 | 2, component: number): number {
  const layers = layersOf(part, element);
  const l = layers[layer]!;
  return plyStress(one, element, layers, l, l.bottom + (place * l.thickness) / 2)[component]!;
}

/** Every layer at bottom, middle and top; shear through the thickness is what gathers of the stresses' change from the bottom up. */
export function statesAt(part: Part, element: number, one: Case): State[] {
  const layers = layersOf(part, element);
  const changes = one.changes.subarray(12 * element, 12 * element + 12);
  const tapered = one.tapered.get(element);
  let below: [number, number] = [0, 0];
  const out: State[] = [];
  layers.forEach((l, layer) => {
    // d/dz of the stresses xz and yz: constant, and with z.
    const [even, linear] = [0, 3].map((k) => {
      const x = times(l.turned, [...changes.subarray(k, k + 3)] as Three);
      const y = times(l.turned, [...changes.subarray(k + 6, k + 9)] as Three);
      return [-x[0] - y[2], -x[2] - y[1]];
    }) as [[number, number], [number, number]];
    const gathered = (up: number) => below.map((b, k) => b + up * (even[k]! + (l.bottom + up / 2) * linear[k]!)) as [number, number];
    for (const place of [0, 1, 2] as const) {
      const up = (place * l.thickness) / 2;
      const [xz, yz] = gathered(up);
      const at = tapered === undefined ? undefined : tapered + 2 * out.length;
      out.push({
        layer,
        place,
        z: l.bottom + up,
        stress: plyStress(one, element, layers, l, l.bottom + up),
        shear: at === undefined ? [l.cos * xz + l.sin * yz, -l.sin * xz + l.cos * yz] : [one.shear[at]!, one.shear[at + 1]!],
      });
    }
    below = gathered(l.thickness);
  });
  return out;
}
