// The picture as a file, with its title and legend.

import type { Colouring } from './colouring';
import { css, number } from './colours';

/** Draws title, picture and legend on one canvas. */
export function composed(picture: HTMLCanvasElement, title: string, under: string, colouring: Colouring): HTMLCanvasElement {
  const scale = Math.max(1, picture.width / 1200);
  const head = 46 * scale;
  const out = document.createElement('canvas');
  out.width = picture.width;
  out.height = picture.height + head;
  const c = out.getContext('2d')!;
  c.fillStyle = '#fff';
  c.fillRect(0, 0, out.width, out.height);
  c.drawImage(picture, 0, head);
  const text = (words: string, x: number, y: number, size: number, bold = false, colour = '#22262b') => {
    c.font = `${bold ? '600 ' : ''}${size * scale}px system-ui, sans-serif`;
    c.fillStyle = colour;
    c.fillText(words, x * scale, y * scale);
    return c.measureText(words).width / scale;
  };
  const width = text(title, 14, 29, 18, true);
  text(under, 26 + width, 29, 13, false, '#6b675f');
  const { legend } = colouring;
  const rows = legend.kind === 'scale' ? 12 : legend.entries.length;
  const height = 30 + 17 * rows + 8;
  const top = out.height / scale - height - 12;
  c.fillStyle = 'rgba(255,255,255,0.92)';
  c.fillRect(12 * scale, top * scale, 250 * scale, height * scale);
  c.strokeStyle = '#d3cdc1';
  c.strokeRect(12 * scale, top * scale, 250 * scale, height * scale);
  text(`${colouring.title}${colouring.unit ? ` ${colouring.unit}` : ''}`, 22, top + 19, 12, true);
  if (legend.kind === 'scale') {
    const tall = 17 * rows - 8;
    const span = legend.high - legend.low;
    for (let i = 0; i < 60; i++) {
      c.fillStyle = css(legend.colour(legend.high - (span * (i + 0.5)) / 60));
      c.fillRect(22 * scale, (top + 32 + (tall * i) / 60) * scale, 18 * scale, (tall / 60 + 0.6) * scale);
    }
    for (const v of span > 0 ? [legend.low, ...legend.ticks.filter((t) => t > legend.low + 0.07 * span && t < legend.high - 0.07 * span), legend.high] : [legend.low])
      text(number(v), 46, top + 36 + (span > 0 ? tall * (1 - (v - legend.low) / span) : 0), 11);
  } else
    legend.entries.forEach((e, i) => {
      const y = top + 32 + 17 * i;
      c.fillStyle = css(e.colour);
      c.fillRect(22 * scale, y * scale, 16 * scale, 12 * scale);
      if (e.hatched) {
        c.strokeStyle = '#4a4d50';
        for (let k = 0; k < 4; k++) {
          c.beginPath();
          c.moveTo((22 + 4 * k) * scale, (y + 12) * scale);
          c.lineTo((26 + 4 * k) * scale, y * scale);
          c.stroke();
        }
      }
      const label = `${e.tag && e.tag !== e.label ? `${e.tag}  ` : ''}${e.label}`;
      text(label.length > 38 ? `${label.slice(0, 37)}…` : label, 46, y + 10, 11);
    });
  return out;
}

export function save(canvas: HTMLCanvasElement, name: string): Promise<void> {
  return new Promise((done) =>
    canvas.toBlob((blob) => {
      const link = document.createElement('a');
      link.href = URL.createObjectURL(blob!);
      link.download = name;
      link.click();
      setTimeout(() => URL.revokeObjectURL(link.href), 1000);
      done();
    }, 'image/png'),
  );
}
