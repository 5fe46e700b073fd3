// Names on the picture: each where its category is widest.

/** One name, in pixels of the pane. */
export interface Tag {
  x: number;
  y: number;
  text: string;
}

/**
 * @param ids elements on a grid of pixels, -1 for none, row by row from the top
 * @param scale pixels of the page in one of the grid
 */
export function tags(
  ids: Int32Array,
  width: number,
  category: Int32Array,
  text: (element: number) => string,
  scale: number,
): Tag[] {
  const height = ids.length / width;
  const kinds = new Int32Array(ids.length);
  for (let i = 0; i < ids.length; i++) kinds[i] = ids[i]! < 0 ? -1 : category[ids[i]!]!;
  // Steps to the nearest pixel of another category, by two passes.
  const far = new Uint16Array(ids.length);
  const at = (x: number, y: number, kind: number) =>
    x < 0 || y < 0 || x >= width || y >= height || kinds[y * width + x] !== kind ? 0 : far[y * width + x]!;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const kind = kinds[y * width + x]!;
      far[y * width + x] = 1 + Math.min(at(x - 1, y, kind), at(x, y - 1, kind), at(x - 1, y - 1, kind), at(x + 1, y - 1, kind));
    }
  const best = new Map<number, number>();
  for (let y = height - 1; y >= 0; y--)
    for (let x = width - 1; x >= 0; x--) {
      const i = y * width + x;
      const kind = kinds[i]!;
      const back = 1 + Math.min(at(x + 1, y, kind), at(x, y + 1, kind), at(x + 1, y + 1, kind), at(x - 1, y + 1, kind));
      far[i] = Math.min(far[i]!, back);
      if (kind < 0) continue;
      const found = best.get(kind);
      if (found === undefined || far[i]! > far[found]!) best.set(kind, i);
    }
  const out: Tag[] = [];
  for (const i of best.values()) {
    if (far[i]! * scale < 9) continue;
    const words = text(ids[i]!);
    if (words) out.push({ x: ((i % width) + 0.5) * scale, y: (Math.floor(i / width) + 0.5) * scale, text: words });
  }
  // The wider first; those that would cover one that stands already are left out.
  out.sort((a, b) => a.y - b.y);
  return out.filter((t, i) => !out.slice(0, i).some((o) => Math.abs(o.y - t.y) < 16 && Math.abs(o.x - t.x) < 4 * (o.text.length + t.text.length) + 6));
}
