// The picture: one part or two, drawn when something changed and not otherwise.

import * as THREE from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import type { Page, Vector } from './data';
import { PartScene } from './part-scene';
import type { Camera, Place, View } from './view';

THREE.ColorManagement.enabled = false; // colours are sRGB from end to end
export interface Hit {
  part: number;
  element: number;
  point: Vector;
}

export class Picture {
  readonly camera = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 10);
  readonly controls: OrbitControls;
  readonly parts: PartScene[];
  private readonly renderer: THREE.WebGLRenderer;
  private readonly picks = new THREE.WebGLRenderTarget(1, 1);
  private readonly centre = new THREE.Vector3();
  private readonly radius: number;
  private view: View | null = null;
  private waiting = 0;
  private arrowStep = 0;
  /** Called when the camera came to rest, and after each picture. */
  onCamera: () => void = () => {};
  onDrawn: () => void = () => {};
  onResize: (width: number, height: number) => void = () => {};
  drawnArrows = 0;

  constructor(private readonly page: Page, private readonly host: HTMLElement) {
    this.renderer = new THREE.WebGLRenderer({ antialias: true, powerPreference: 'high-performance' });
    this.renderer.setClearColor(0xf7f5f0);
    this.renderer.autoClear = false;
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    host.prepend(this.renderer.domElement);
    this.parts = page.parts.map((p, i) => new PartScene(p, i));
    const low = new THREE.Vector3(Infinity, Infinity, Infinity);
    const high = new THREE.Vector3(-Infinity, -Infinity, -Infinity);
    for (const p of page.parts) {
      const scale = p.units.metre / page.parts[0]!.units.metre;
      low.min(new THREE.Vector3(...p.low).multiplyScalar(scale));
      high.max(new THREE.Vector3(...p.high).multiplyScalar(scale));
      const scene = this.parts[page.parts.indexOf(p)]!;
      scene.scene.scale.setScalar(scale);
      scene.pickScene.scale.setScalar(scale);
    }
    this.centre.addVectors(low, high).multiplyScalar(0.5);
    this.radius = Math.max(1e-9, high.distanceTo(low) / 2);
    this.camera.up.set(0, 0, 1);
    this.controls = new OrbitControls(this.camera, this.renderer.domElement);
    this.controls.enableDamping = false;
    this.controls.zoomToCursor = true;
    this.controls.rotateSpeed = 0.8;
    this.controls.addEventListener('change', () => this.redraw());
    this.controls.addEventListener('end', () => this.rested());
    this.renderer.domElement.addEventListener('wheel', () => this.rested(), { passive: true });
    new ResizeObserver(() => this.resize()).observe(host);
    this.renderer.domElement.addEventListener('webglcontextrestored', () => this.redraw());
    this.look([0.55, -0.75, 0.5]);
  }

  get canvas() {
    return this.renderer.domElement;
  }

  private restTimer: ReturnType<typeof setTimeout> | undefined;
  private rested() {
    clearTimeout(this.restTimer);
    this.restTimer = setTimeout(() => {
      this.updateArrows();
      this.onCamera();
    }, 150);
  }

  private get aspect() {
    const { clientWidth: w, clientHeight: h } = this.host;
    return Math.max(1, w / this.parts.length) / Math.max(1, h);
  }
  /** Height of the picture in lengths of the first part. */
  get height() {
    return (this.camera.top - this.camera.bottom) / this.camera.zoom;
  }

  private resize() {
    const { clientWidth: w, clientHeight: h } = this.host;
    if (w === 0 || h === 0) return;
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer.setSize(w, h);
    const half = (this.camera.top - this.camera.bottom) / 2;
    this.camera.left = -half * this.aspect;
    this.camera.right = half * this.aspect;
    this.camera.updateProjectionMatrix();
    this.onResize(w, h);
    this.redraw();
  }

  /** From a direction, all of the part in view. */
  look(from: Vector) {
    const d = new THREE.Vector3(...from).normalize();
    // Seen straight from above, y is up as nearly as the controls allow.
    if (Math.abs(d.z) > 0.9999) d.set(0, -1e-3, Math.sign(d.z)).normalize();
    this.set({ from: [d.x, d.y, d.z], target: this.centre.toArray() as Vector, height: 1 }, true);
  }

  set(camera: Camera, fit = false) {
    const d = new THREE.Vector3(...camera.from).normalize();
    this.controls.target.set(...camera.target);
    this.camera.position.copy(this.controls.target).addScaledVector(d, 4 * this.radius);
    this.camera.zoom = 1;
    this.camera.near = 0.01 * this.radius;
    this.camera.far = 10 * this.radius;
    this.camera.lookAt(this.controls.target);
    this.camera.updateMatrixWorld();
    const half = fit ? this.fitting() : camera.height / 2;
    this.camera.top = half;
    this.camera.bottom = -half;
    this.camera.left = -half * this.aspect;
    this.camera.right = half * this.aspect;
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.updateArrows();
    this.redraw();
  }

  /** Half the height that holds the boxes of all parts. */
  private fitting(): number {
    let half = 1e-9;
    for (const { part } of this.parts)
      for (let i = 0; i < 8; i++) {
        const scale = part.units.metre / this.page.parts[0]!.units.metre;
        const p = new THREE.Vector3(
          (i & 1 ? part.high : part.low)[0],
          (i & 2 ? part.high : part.low)[1],
          (i & 4 ? part.high : part.low)[2],
        ).multiplyScalar(scale);
        p.applyMatrix4(this.camera.matrixWorldInverse);
        half = Math.max(half, Math.abs(p.y), Math.abs(p.x) / this.aspect);
      }
    return 1.12 * half;
  }

  get now(): Camera {
    const d = this.camera.position.clone().sub(this.controls.target).normalize();
    return { from: d.toArray() as Vector, target: this.controls.target.toArray() as Vector, height: this.height };
  }

  /** Turns about the target by degrees, or zooms by a factor. */
  turn(right: number, up: number) {
    const s = new THREE.Spherical().setFromVector3(
      new THREE.Vector3(this.now.from[0], this.now.from[2], -this.now.from[1]),
    );
    s.theta += (right * Math.PI) / 180;
    s.phi = Math.min(Math.PI - 0.002, Math.max(0.002, s.phi - (up * Math.PI) / 180));
    const d = new THREE.Vector3().setFromSpherical(s);
    this.set({ ...this.now, from: [d.x, -d.z, d.y] });
  }
  zoom(factor: number) {
    this.set({ ...this.now, height: this.height / factor });
  }
  /** Brings an element to the middle, near enough to see it. */
  goTo(part: number, element: number) {
    const of = this.page.parts[part]!;
    const c = of.centres.subarray(3 * element, 3 * element + 3);
    const n = of.normals.subarray(3 * element, 3 * element + 3);
    const scale = of.units.metre / this.page.parts[0]!.units.metre;
    const from = new THREE.Vector3(...this.now.from);
    // From the side that the element shows, a little askew.
    const facing = new THREE.Vector3(n[0]!, n[1]!, n[2]!);
    if (from.dot(facing) < 0.35) from.copy(facing).addScaledVector(new THREE.Vector3(0.25, -0.35, 0.3), 1).normalize();
    const wide = Math.sqrt(of.areas[element]!) * scale;
    this.set({
      from: from.toArray() as Vector,
      target: this.parts[part]!.moved(element).map((v, k) => (v + c[k]!) * scale) as Vector,
      height: Math.min(this.height, Math.max(0.5 * this.radius, 24 * wide)),
    });
    this.rested();
  }

  show(view: View) {
    const before = this.view;
    const changed = (keys: (keyof View)[]) => before === null || keys.some((k) => before[k] !== view[k]);
    this.view = view;
    for (const p of this.parts) p.show(this.page.parts, view, changed);
    if (changed(['arrows', 'ply', 'show', 'cut', 'zone', 'layers', 'colour'])) {
      this.arrowStep = 0;
      this.updateArrows();
    }
    if (changed(['moving', 'shape']) && view.moving && view.shape !== null) this.swing();
    this.redraw();
  }

  private swinging = 0;
  /** To and fro, once in two seconds, until the view says otherwise. */
  private swing() {
    if (this.swinging !== 0) return;
    const step = (now: number) => {
      const view = this.view!;
      if (!view.moving || view.shape === null) {
        this.swinging = 0;
        for (const p of this.parts) p.move(view, 1);
        this.redraw();
        return;
      }
      for (const p of this.parts) p.move(view, Math.sin((now / 1000) * Math.PI));
      this.draw();
      this.swinging = requestAnimationFrame(step);
    };
    this.swinging = requestAnimationFrame(step);
  }

  /** Their distance follows the zoom in steps, so that arrows do not swim. */
  private updateArrows() {
    if (!this.view) return;
    const step = Math.SQRT2 ** Math.round(2 * Math.log2(this.height / 15));
    if (step === this.arrowStep) return;
    this.arrowStep = step;
    this.drawnArrows = this.parts.reduce((sum, p) => sum + p.showArrows(this.page.parts, this.view!, step), 0);
    this.redraw();
  }

  select(place: Hit | { part: number; element: number } | null) {
    this.parts.forEach((p, i) => p.select(place && place.part === i ? place.element : -1));
    this.redraw();
  }
  hover(place: { part: number; element: number } | null) {
    this.parts.forEach((p, i) => p.hover(place && place.part === i ? place.element : -1));
    this.redraw();
  }

  redraw() {
    if (this.waiting === 0) this.waiting = requestAnimationFrame(() => this.draw());
  }

  private panes(): [number, number][] {
    const w = this.host.clientWidth / this.parts.length;
    return this.parts.map((_, i) => [Math.round(i * w), Math.round(w)]);
  }

  draw() {
    cancelAnimationFrame(this.waiting);
    this.waiting = 0;
    const h = this.host.clientHeight;
    this.renderer.setScissorTest(false);
    this.renderer.clear();
    this.renderer.setScissorTest(true);
    this.panes().forEach(([x, w], i) => {
      this.renderer.setViewport(x, 0, w, h);
      this.renderer.setScissor(x, 0, w, h);
      this.renderer.render(this.parts[i]!.scene, this.camera);
    });
    this.onDrawn();
  }

  /** What lies under a point of the canvas, in pixels of the page. */
  pick(x: number, y: number): Hit | null {
    const [w, h] = [this.host.clientWidth / this.parts.length, this.host.clientHeight];
    const part = Math.min(this.parts.length - 1, Math.max(0, Math.floor(x / w)));
    this.camera.setViewOffset(w, h, x - part * w, y, 1, 1);
    this.renderer.setRenderTarget(this.picks);
    this.renderer.setScissorTest(false);
    this.renderer.setClearColor(0, 0);
    this.renderer.clear();
    this.renderer.render(this.parts[part]!.pickScene, this.camera);
    const pixel = new Uint8Array(4);
    this.renderer.readRenderTargetPixels(this.picks, 0, 0, 1, 1, pixel);
    this.renderer.setRenderTarget(null);
    this.renderer.setClearColor(0xf7f5f0, 1);
    this.camera.clearViewOffset();
    const element = pixel[0]! + 256 * pixel[1]! + 65536 * pixel[2]! - 1;
    if (pixel[3]! < 100 || element < 0) return null;
    return { part, element, point: this.pointOn(part, element, (x - part * w) / w, y / h) };
  }

  /** Where the line of sight meets the plane of an element. */
  private pointOn(part: number, element: number, x: number, y: number): Vector {
    const of = this.page.parts[part]!;
    const scale = of.units.metre / this.page.parts[0]!.units.metre;
    const ray = new THREE.Raycaster();
    ray.setFromCamera(new THREE.Vector2(2 * x - 1, 1 - 2 * y), this.camera);
    const at = (all: Float32Array) => new THREE.Vector3(all[3 * element]!, all[3 * element + 1]!, all[3 * element + 2]!);
    const centre = at(of.centres).multiplyScalar(scale);
    const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(at(of.normals), centre);
    const hit = ray.ray.intersectPlane(plane, new THREE.Vector3()) ?? centre;
    return hit.divideScalar(scale).toArray() as Vector;
  }

  /** Elements on a coarse grid of pixels of one part: -1 where there is none. */
  ids(part: number, width: number, height: number): Int32Array {
    const target = new THREE.WebGLRenderTarget(width, height);
    this.renderer.setRenderTarget(target);
    this.renderer.setScissorTest(false);
    this.renderer.setClearColor(0, 0);
    this.renderer.clear();
    this.renderer.render(this.parts[part]!.pickScene, this.camera);
    const pixels = new Uint8Array(4 * width * height);
    this.renderer.readRenderTargetPixels(target, 0, 0, width, height, pixels);
    this.renderer.setRenderTarget(null);
    this.renderer.setClearColor(0xf7f5f0, 1);
    target.dispose();
    const out = new Int32Array(width * height);
    for (let row = 0; row < height; row++)
      for (let i = 0; i < width; i++) {
        const p = 4 * ((height - 1 - row) * width + i);
        out[row * width + i] = pixels[p + 3]! < 100 ? -1 : pixels[p]! + 256 * pixels[p + 1]! + 65536 * pixels[p + 2]! - 1;
      }
    return out;
  }

  /** Where a point of a part is seen, in pixels of the page. */
  project(part: number, point: Vector): [number, number] {
    const scale = this.page.parts[part]!.units.metre / this.page.parts[0]!.units.metre;
    const p = new THREE.Vector3(...point).multiplyScalar(scale).project(this.camera);
    const w = this.host.clientWidth / this.parts.length;
    return [part * w + ((p.x + 1) / 2) * w, ((1 - p.y) / 2) * this.host.clientHeight];
  }

  /** Where the middle of an element is seen: on the face of its laminate that is drawn and turned this way. */
  seenAt(part: number, element: number): [number, number] {
    const of = this.page.parts[part]!;
    const n = of.normals.subarray(3 * element, 3 * element + 3);
    const facing = n[0]! * this.now.from[0] + n[1]! * this.now.from[1] + n[2]! * this.now.from[2] > 0;
    const lift = this.parts[part]!.height(element, facing);
    const moved = this.parts[part]!.moved(element);
    return this.project(part, [0, 1, 2].map((k) => of.centres[3 * element + k]! + moved[k]! + lift * n[k]!) as Vector);
  }

  /** Directions of x, y and z as they are seen: right and up. */
  axes(): [number, number][] {
    const right = new THREE.Vector3().setFromMatrixColumn(this.camera.matrixWorld, 0);
    const up = new THREE.Vector3().setFromMatrixColumn(this.camera.matrixWorld, 1);
    return [0, 1, 2].map((k) => [right.getComponent(k), up.getComponent(k)]);
  }

  /** The picture as it stands, as the canvas draws it. */
  snapshot(): HTMLCanvasElement {
    this.draw();
    const out = document.createElement('canvas');
    out.width = this.canvas.width;
    out.height = this.canvas.height;
    out.getContext('2d')!.drawImage(this.canvas, 0, 0);
    return out;
  }

  elementOf(place: Place): number {
    return this.page.parts[place.part]?.ids.indexOf(place.element) ?? -1;
  }
}
