// One part of the page as three.js objects: surface, layers, borders, the cut, arrows.

import * as THREE from 'three';
import { colouring, plyIndex, toolSide, type Colouring } from './colouring';
import type { Part, Vector } from './data';
import { arrowAt, cutThrough, heightsOf, none, sidesOf, spread, walls, type Plane, type Rectangles, type Sides } from './layers';
import { arrowFragment, arrowVertex, lineFragment, lineVertex, pickFragment, surfaceFragment, surfaceVertex, wallFragment, wallVertex } from './shaders';
import type { View } from './view';

const everything = 1e30;

/** A texture with `each` numbers per entry, in rows of 2048. */
function table(data: Float32Array | Uint32Array | Uint8Array, each: 1 | 2 | 4): THREE.DataTexture {
  const width = 2048;
  const entries = data.length / each;
  const height = Math.max(1, Math.ceil(entries / width));
  const full = new (data.constructor as new (n: number) => typeof data)(width * height * each);
  full.set(data as never);
  const formats = { 1: THREE.RedFormat, 2: THREE.RGFormat, 4: THREE.RGBAFormat } as const;
  const isInteger = data instanceof Uint32Array;
  const texture = new THREE.DataTexture(
    full as never,
    width,
    height,
    isInteger ? THREE.RGBAIntegerFormat : formats[each],
    isInteger ? THREE.UnsignedIntType : data instanceof Uint8Array ? THREE.UnsignedByteType : THREE.FloatType,
  );
  if (isInteger) texture.internalFormat = 'RGBA32UI';
  texture.needsUpdate = true;
  return texture;
}

/** Three numbers a point to four. */
function padded(data: Float32Array): Float32Array {
  const out = new Float32Array((data.length / 3) * 4);
  for (let i = 0, j = 0; i < data.length; i += 3, j += 4) {
    out[j] = data[i]!;
    out[j + 1] = data[i + 1]!;
    out[j + 2] = data[i + 2]!;
  }
  return out;
}

type Uniforms = Record<string, THREE.IUniform>;

/** One part of the page as three.js objects. */
export class PartScene {
  readonly scene = new THREE.Scene();
  readonly sides: Sides;
  colouring!: Colouring;
  plane: Plane | null = null;
  private readonly shared: Uniforms;
  private readonly faces: THREE.Mesh[] = [];
  private readonly pickFaces: THREE.Mesh[] = [];
  private wall: THREE.Mesh;
  private section: THREE.Mesh;
  private readonly border: THREE.LineSegments;
  private readonly cutLine: THREE.LineSegments;
  private readonly plyEdges: THREE.LineSegments;
  private readonly net: THREE.LineSegments;
  private arrows: THREE.Mesh;
  /** Points as they are drawn: moved by a shape, or as they are. */
  private places: Float32Array;
  readonly pickScene = new THREE.Scene();

  constructor(readonly part: Part, readonly index: number) {
    this.sides = sidesOf(part);
    this.places = part.points;
    this.shared = {
      points: { value: table(padded(part.points), 4) },
      pointNormals: { value: table(padded(part.pointNormals), 4) },
      corners: { value: table(part.corners, 4) },
      heights: { value: table(new Float32Array(2 * part.count), 2) },
      colours: { value: table(new Uint8Array(4 * part.count), 4) },
      exaggeration: { value: 1 },
      cut: { value: new THREE.Vector4(0, 0, 0, everything) },
      selected: { value: -1 },
      hovered: { value: -1 },
      twoSided: { value: 0 },
      lines: { value: 1 },
      backColour: { value: new THREE.Color(...toolSide.map((c) => c / 255)) },
      partNumber: { value: index },
    };
    for (const face of [0, 1, -1]) {
      const geometry = new THREE.BufferGeometry();
      geometry.setDrawRange(0, 6 * part.count);
      const uniforms = { ...this.shared, face: { value: face } };
      const common = {
        glslVersion: THREE.GLSL3,
        vertexShader: surfaceVertex,
        uniforms,
        side: THREE.DoubleSide,
        polygonOffset: true,
        polygonOffsetFactor: 1,
        polygonOffsetUnits: 1,
      };
      const drawn = new THREE.Mesh(geometry, new THREE.RawShaderMaterial({ ...common, fragmentShader: surfaceFragment }));
      const picked = new THREE.Mesh(geometry, new THREE.RawShaderMaterial({ ...common, fragmentShader: pickFragment }));
      for (const mesh of [drawn, picked]) mesh.frustumCulled = false;
      this.faces.push(drawn);
      this.pickFaces.push(picked);
      this.scene.add(drawn);
      this.pickScene.add(picked);
    }
    this.wall = this.rectangles(false);
    this.section = this.rectangles(true);
    this.border = this.lineSegments(false);
    this.cutLine = this.lineSegments(true);
    this.plyEdges = this.lineSegments(false, new THREE.Color(0.72, 0.1, 0.16));
    this.net = this.lineSegments(false, new THREE.Color(0.2, 0.27, 0.36));
    this.arrows = this.arrowMesh();
    this.scene.add(this.wall, this.section, this.border, this.cutLine, this.plyEdges, this.net, this.arrows);
  }

  private rectangles(inCut: boolean): THREE.Mesh {
    const mesh = new THREE.Mesh(
      new THREE.BufferGeometry(),
      new THREE.RawShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: wallVertex,
        fragmentShader: wallFragment,
        uniforms: { ...this.shared, slack: { value: inCut ? everything : 0 } },
        side: inCut ? THREE.DoubleSide : THREE.FrontSide,
        polygonOffset: inCut,
        polygonOffsetFactor: -1,
        polygonOffsetUnits: -1,
      }),
    );
    mesh.frustumCulled = false;
    return mesh;
  }

  private lineSegments(inCut: boolean, tint = new THREE.Color(0.1, 0.11, 0.13)): THREE.LineSegments {
    const lines = new THREE.LineSegments(
      new THREE.BufferGeometry(),
      new THREE.RawShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: lineVertex,
        fragmentShader: lineFragment,
        uniforms: { cut: this.shared.cut!, slack: { value: inCut ? everything : 0 }, tint: { value: tint } },
      }),
    );
    lines.frustumCulled = false;
    return lines;
  }

  private arrowMesh(): THREE.Mesh {
    const mesh = new THREE.Mesh(
      new THREE.InstancedBufferGeometry(),
      new THREE.RawShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: arrowVertex,
        fragmentShader: arrowFragment,
        uniforms: {
          size: { value: 1 },
          lift: { value: 0.12 },
          cut: this.shared.cut!,
          tint: { value: new THREE.Color(0.1, 0.11, 0.13) },
        },
        side: THREE.DoubleSide,
      }),
    );
    mesh.frustumCulled = false;
    return mesh;
  }

  private fillRectangles(mesh: THREE.Mesh, from: Rectangles | null) {
    mesh.geometry.dispose();
    const geometry = new THREE.BufferGeometry();
    const count = from?.count ?? 0;
    mesh.visible = count > 0;
    if (from && count > 0) {
      geometry.setAttribute('position', new THREE.BufferAttribute(from.position.subarray(0, 12 * count), 3));
      geometry.setAttribute('along', new THREE.BufferAttribute(from.along.subarray(0, 12 * count), 3));
      geometry.setAttribute('z', new THREE.BufferAttribute(from.z.subarray(0, 4 * count), 1));
      geometry.setAttribute('tint', new THREE.BufferAttribute(from.tint.subarray(0, 16 * count), 4, true));
      const level = new Float32Array(4 * count);
      const index = new Uint32Array(6 * count);
      for (let r = 0; r < count; r++) {
        level.set([0, 0, 1, 1], 4 * r);
        index.set([0, 1, 2, 0, 2, 3].map((i) => 4 * r + i), 6 * r);
      }
      geometry.setAttribute('level', new THREE.BufferAttribute(level, 1));
      geometry.setIndex(new THREE.BufferAttribute(index, 1));
    }
    mesh.geometry = geometry;
  }

  private fillLines(lines: THREE.LineSegments, points: Float32Array) {
    lines.geometry.dispose();
    lines.geometry = new THREE.BufferGeometry();
    lines.visible = points.length > 0;
    if (points.length > 0) lines.geometry.setAttribute('position', new THREE.BufferAttribute(points, 3));
  }

  /** Colours, borders and layers as the view has them. */
  show(parts: Part[], view: View, changed: (keys: (keyof View)[]) => boolean) {
    const { part, shared } = this;
    const ply = plyIndex(parts, part, view);
    const layered = view.layers > 0;
    if (changed(['shape', 'scale', 'moving'])) this.move(view, 1);
    if (changed(['colour', 'ply', 'show', 'zone', 'case', 'face', 'shape', 'scale'])) {
      this.colouring = colouring(parts, part, view);
      const texture = shared.colours!.value as THREE.DataTexture;
      (texture.image.data as Uint8Array).set(this.colouring.colours);
      texture.needsUpdate = true;
      shared.twoSided!.value = view.colour === 'side' ? 1 : 0;
      this.fillLines(this.border, this.borders());
      this.fillLines(this.plyEdges, this.edgesOf(ply));
      this.fillLines(this.net, this.netOf(view, ply));
    }
    const limit = view.show === 'all' ? null : ply;
    if (layered && changed(['colour', 'ply', 'show', 'layers'])) {
      const texture = shared.heights!.value as THREE.DataTexture;
      (texture.image.data as Float32Array).set(heightsOf(part, view, limit));
      texture.needsUpdate = true;
      this.fillRectangles(this.wall, walls(part, this.sides, view, limit));
    }
    shared.exaggeration!.value = view.layers;
    shared.lines!.value = view.lines ? 1 : 0;
    this.faces[0]!.visible = this.pickFaces[0]!.visible = !layered;
    for (const i of [1, 2]) this.faces[i]!.visible = this.pickFaces[i]!.visible = layered;
    this.wall.visible = layered && this.wall.geometry.index !== null;
    const still = view.shape === null;
    this.plyEdges.visible = still && !layered && this.plyEdges.geometry.attributes.position !== undefined;
    this.net.visible = still && !layered && this.net.geometry.attributes.position !== undefined;
    this.border.visible = !view.moving && !layered && this.border.geometry.attributes.position !== undefined;
    if (changed(['cut', 'layers', 'colour', 'ply', 'show'])) {
      this.plane = null;
      const all = shared.cut!.value as THREE.Vector4;
      if (view.cut) {
        const axis = 'xyz'.indexOf(view.cut.axis);
        const sign = view.cut.flipped ? -1 : 1;
        const normal: Vector = [0, 0, 0];
        normal[axis] = sign;
        // A hair's breadth off round places, where whole rows of points would lie in the plane.
        const size = part.high[axis]! - part.low[axis]! || 1;
        const at = sign * (part.low[axis]! + (view.cut.at * 0.9998 + 0.000113) * size);
        this.plane = { normal, at };
        all.set(...normal, at);
        const made = cutThrough(part, this.plane, view, limit);
        this.fillRectangles(this.section, made.rectangles);
        this.fillLines(this.cutLine, layered ? new Float32Array() : made.line);
      } else {
        all.set(0, 0, 0, everything);
        this.fillRectangles(this.section, null);
        this.fillLines(this.cutLine, new Float32Array());
      }
    }
  }

  /** Moves the points by the view's shape, so many times its scale. */
  move(view: View, times: number) {
    const { part, shared } = this;
    const shape = part.results?.shapes.find((s) => s.name === view.shape);
    const texture = shared.points!.value as THREE.DataTexture;
    const data = texture.image.data as Float32Array;
    const factor = view.scale * times;
    this.places = shape ? part.points.map((v, i) => v + factor * shape.moves[i]!) : part.points;
    for (let i = 0, j = 0; i < this.places.length; i += 3, j += 4) {
      data[j] = this.places[i]!;
      data[j + 1] = this.places[i + 1]!;
      data[j + 2] = this.places[i + 2]!;
    }
    texture.needsUpdate = true;
  }

  /** Edges of plies; of one alone where it is chosen. */
  private edgesOf(ply: number | null): Float32Array {
    const { points, lines } = this.part.edges;
    const shown = lines.filter((line) => ply === null || line.plies.includes(ply));
    const out = new Float32Array(6 * shown.reduce((sum, line) => sum + line.count, 0));
    let at = 0;
    for (const line of shown) {
      out.set(points.subarray(6 * line.from, 6 * (line.from + line.count)), at);
      at += 6 * line.count;
    }
    return out;
  }

  /** The net of the draped ply that is chosen, where its shear is shown. */
  private netOf(view: View, ply: number | null): Float32Array {
    const drape = view.colour === 'shear' && ply !== null && ply >= 0 ? this.part.plies[ply]!.drape : null;
    return drape === null ? new Float32Array() : this.part.drapes[drape]!.net;
  }

  /** Sides where the category changes, and the border of the part. */
  private borders(): Float32Array {
    const { sides } = this;
    const { category } = this.colouring;
    const out: number[] = [];
    for (let s = 0; s < sides.count; s++) {
      const e = sides.elements[2 * s]!;
      const f = sides.elements[2 * s + 1]!;
      if (f !== none && category[e] === category[f]) continue;
      for (let k = 0; k < 2; k++) {
        const p = 3 * sides.points[2 * s + k]!;
        out.push(this.places[p]!, this.places[p + 1]!, this.places[p + 2]!);
      }
    }
    return new Float32Array(out);
  }

  /** Arrows so far apart as `step`, in lengths of the part. */
  showArrows(parts: Part[], view: View, step: number) {
    const { part } = this;
    const ply = plyIndex(parts, part, view);
    this.arrows.geometry.dispose();
    const geometry = new THREE.InstancedBufferGeometry();
    this.arrows.visible = false;
    this.arrows.geometry = geometry;
    if (view.arrows === 'none') return 0;
    const shown = (e: number) => {
      if (this.colouring.category[e] === -1 && view.show !== 'all') return false;
      if (this.plane) {
        const c = part.centres.subarray(3 * e, 3 * e + 3);
        const { normal, at } = this.plane;
        if (c[0]! * normal[0] + c[1]! * normal[1] + c[2]! * normal[2] > at) return false;
      }
      return arrowAt(part, e, view, ply) !== null;
    };
    const elements = spread(part, step, shown);
    const from = new Float32Array(3 * elements.length);
    const towards = new Float32Array(3 * elements.length);
    const heights = view.layers > 0 ? ((this.shared.heights!.value as THREE.DataTexture).image.data as Float32Array) : null;
    elements.forEach((e, i) => {
      const d = arrowAt(part, e, view, ply)!;
      const lift = heights ? heights[2 * e + 1]! * view.layers : 0;
      for (let k = 0; k < 3; k++) {
        from[3 * i + k] =
          part.centres[3 * e + k]! + lift * part.normals[3 * e + k]! - (view.arrows === 'normal' ? 0 : 0.36 * step * d[k]!);
        towards[3 * i + k] = d[k]!;
      }
    });
    // A shaft and a head, and behind them the same a little larger and white.
    const outline: number[] = [];
    const rim: number[] = [];
    for (const [grown, isRim] of [
      [0.03, 1],
      [0, 0],
    ] as const) {
      const [tip, neck, half, barb, tail] = [1 + 2 * grown, 0.62 - grown, 0.035 + grown, 0.15 + 1.3 * grown, -grown];
      for (const [x, y] of [
        [tail, -half], [neck, -half], [neck, half],
        [tail, -half], [neck, half], [tail, half],
        [neck, -barb], [tip, 0], [neck, barb],
      ] as const) {
        outline.push(x, y, 0);
        rim.push(isRim);
      }
    }
    geometry.setAttribute('position', new THREE.BufferAttribute(new Float32Array(outline), 3));
    geometry.setAttribute('rim', new THREE.BufferAttribute(new Float32Array(rim), 1));
    geometry.setAttribute('from', new THREE.InstancedBufferAttribute(from, 3));
    geometry.setAttribute('towards', new THREE.InstancedBufferAttribute(towards, 3));
    geometry.instanceCount = elements.length;
    const uniforms = (this.arrows.material as THREE.RawShaderMaterial).uniforms;
    uniforms.size!.value = 0.72 * step;
    this.arrows.visible = elements.length > 0;
    return elements.length;
  }

  /** Of the face of the laminate as it is drawn, above the mesh. */
  /** How far the middle of an element is moved by the shape that is drawn. */
  moved(element: number): Vector {
    const own = [...new Set(this.part.corners.subarray(4 * element, 4 * element + 4))];
    return [0, 1, 2].map((k) => own.reduce((sum, n) => sum + this.places[3 * n + k]! - this.part.points[3 * n + k]!, 0) / own.length) as Vector;
  }

  height(element: number, top: boolean): number {
    const times = this.shared.exaggeration!.value as number;
    if (times === 0) return 0;
    return times * ((this.shared.heights!.value as THREE.DataTexture).image.data as Float32Array)[2 * element + (top ? 1 : 0)]!;
  }

  select(element: number) {
    this.shared.selected!.value = element;
  }
  hover(element: number) {
    this.shared.hovered!.value = element;
  }
}
