// What is shown, at the left.

import type { ComponentChildren } from 'preact';
import { modesOf, plyIds } from './colouring';
import { number } from './colours';
import type { Page } from './data';
import { ShapeChoice, StressChoice } from './results';
import type { Set } from './tables';
import type { Arrows, Show, View } from './view';

function Choice<T extends string>(props: { name: string; label: string; now: T; all: readonly (readonly [T, string])[]; set: (value: T) => void }) {
  return (
    <div class="choice" role="radiogroup" aria-label={props.label}>
      {props.all.map(([value, label]) => (
        <button
          type="button"
          role="radio"
          aria-checked={props.now === value}
          class={props.now === value ? 'chosen' : ''}
          data-choice={`${props.name}-${value}`}
          onClick={() => props.set(value)}
        >
          {label}
        </button>
      ))}
    </div>
  );
}

export function stepPly(page: Page, view: View, by: number): Partial<View> {
  const ids = plyIds(page.parts);
  const now = view.ply === null ? -1 : ids.indexOf(view.ply);
  const next = now < 0 ? (by > 0 ? 0 : ids.length - 1) : Math.min(ids.length - 1, Math.max(0, now + by));
  return { ply: ids[next]!, show: view.show === 'all' ? 'alone' : view.show };
}

/** A ply by its id, and the part that has it: the first that does. */
function plyOf(page: Page, id: string | null) {
  for (const part of page.parts) {
    const ply = part.plies.find((p) => p.id === id);
    if (ply) return { part, ply };
  }
  return null;
}

export function Rail(props: { page: Page; view: View; set: Set; children?: ComponentChildren }) {
  const { page, view, set } = props;
  const part = page.parts[0]!;
  const ids = plyIds(page.parts);
  const chosen = plyOf(page, view.ply);
  const at = view.ply === null ? -1 : ids.indexOf(view.ply);
  const span = (axis: 'x' | 'y' | 'z') => {
    const k = 'xyz'.indexOf(axis);
    return [part.low[k]!, part.high[k]!] as const;
  };
  const thickest = part.stacks.reduce((most, s) => Math.max(most, s.thickness), 0);
  const size = Math.hypot(...part.high.map((v, k) => v - part.low[k]!));
  // Thick enough to see: the thickest laminate a twentieth of the part, at most 100 times.
  const suggested = Math.max(1, Math.min(100, Math.round((0.05 * size) / thickest)));
  const cut = view.cut;
  const modes = modesOf(page.parts);
  const groups = [...new Set(modes.map((m) => m.group))].filter((g) => g !== undefined);
  return (
    <nav class="rail" aria-label="What is shown">
      <label for="colour">Colour by</label>
      <select id="colour" value={view.colour} onChange={(e) => set({ colour: e.currentTarget.value })}>
        {modes
          .filter((m) => !m.group)
          .map((m) => (
            <option value={m.key}>{m.label}</option>
          ))}
        {groups.map((group) => (
          <optgroup label={group}>
            {modes
              .filter((m) => m.group === group)
              .map((m) => (
                <option value={m.key}>{m.label}</option>
              ))}
          </optgroup>
        ))}
      </select>
      <StressChoice part={part} view={view} set={set} />
      <ShapeChoice part={part} view={view} set={set} />
      <fieldset>
        <legend>Plies</legend>
        <Choice
          name="show"
          label="Which plies"
          now={view.show}
          all={[
            ['all', 'all'],
            ['alone', 'one'],
            ['upto', 'up to'],
          ] as const}
          set={(show: Show) => set(show !== 'all' && view.ply === null ? { show, ply: ids[0]! } : { show })}
        />
        <div class="step">
          <button type="button" aria-label="Ply before" title="Ply before  [" onClick={() => set(stepPly(page, view, -1))}>
            ‹
          </button>
          <select id="ply" aria-label="Ply" value={view.ply ?? ''} onChange={(e) => set(e.currentTarget.value === '' ? { ply: null, show: 'all' } : { ply: e.currentTarget.value, show: view.show === 'all' ? 'alone' : view.show })}>
            <option value="">no ply chosen</option>
            {ids.map((id) => (
              <option value={id}>
                {id} {number(plyOf(page, id)!.ply.angle)}°
              </option>
            ))}
          </select>
          <button type="button" aria-label="Next ply" title="Next ply  ]" onClick={() => set(stepPly(page, view, 1))}>
            ›
          </button>
        </div>
        <input
          type="range"
          aria-label="Place in the laying order"
          min="0"
          max={ids.length - 1}
          value={Math.max(0, at)}
          onInput={(e) => set({ ply: ids[Number(e.currentTarget.value)]!, show: view.show === 'all' ? 'alone' : view.show })}
        />
        <p class="about">
          {chosen
            ? `${at + 1} of ${ids.length}: ${number(chosen.ply.angle)}° ${chosen.part.materials[chosen.ply.material]!.name} on ${chosen.part.zones[chosen.ply.zone]!.name}${page.parts.length > 1 && !page.parts.every((p) => p.plies.some((q) => q.id === view.ply)) ? `, ${chosen.part === part ? 'first' : 'second'} only` : ''}`
            : `${ids.length} plies`}
        </p>
      </fieldset>
      <fieldset>
        <legend>Arrows</legend>
        <Choice
          name="arrows"
          label="Arrows"
          now={view.arrows}
          all={[
            ['none', 'none'],
            ['zero', '0°'],
            ['fibre', page.parts.some((p) => p.drapes.length > 0) ? 'warp' : 'fibre'],
            ...(page.parts.some((p) => p.drapes.length > 0) ? ([['weft', 'weft']] as const) : []),
            ['normal', 'normal'],
          ] as const}
          set={(arrows: Arrows) => set({ arrows })}
        />
        {view.arrows === 'fibre' && <p class="about">{chosen ? `fibres of ${chosen.ply.id}` : 'fibres of the last laid ply'}</p>}
        {view.arrows === 'zero' && <p class="about">{chosen ? `0° of frame ${chosen.part.frames[chosen.ply.frame]!.name}` : '0° of each stack'}</p>}
      </fieldset>
      <fieldset>
        <legend>Layers as solids</legend>
        <label class="line">
          <input type="checkbox" id="layers" checked={view.layers > 0} onChange={(e) => set({ layers: e.currentTarget.checked ? suggested : 0 })} />
          {view.layers > 0 ? `thickness × ${number(view.layers)}` : 'show thickness'}
        </label>
        {view.layers > 0 && (
          <input
            type="range"
            aria-label="Thickness times"
            min="0"
            max="100"
            value={(100 * Math.log(view.layers)) / Math.log(200)}
            onInput={(e) => set({ layers: Number((200 ** (Number(e.currentTarget.value) / 100)).toPrecision(2)) })}
          />
        )}
      </fieldset>
      <fieldset>
        <legend>Cut</legend>
        <Choice
          name="cut"
          label="Cut square to"
          now={cut?.axis ?? 'none'}
          all={[
            ['none', 'none'],
            ['x', 'x'],
            ['y', 'y'],
            ['z', 'z'],
          ] as const}
          set={(axis: 'none' | 'x' | 'y' | 'z') => set({ cut: axis === 'none' ? null : { axis, at: cut?.at ?? 0.5, flipped: cut?.flipped ?? false } })}
        />
        {cut && (
          <>
            <input type="range" aria-label="Place of the cut" min="0" max="1000" value={1000 * cut.at} onInput={(e) => set({ cut: { ...cut, at: Number(e.currentTarget.value) / 1000 } })} />
            <p class="about">
              at {cut.axis} = {number(span(cut.axis)[0] + cut.at * (span(cut.axis)[1] - span(cut.axis)[0]))} {part.units.length}
            </p>
            <label class="line">
              <input type="checkbox" checked={cut.flipped} onChange={(e) => set({ cut: { ...cut, flipped: e.currentTarget.checked } })} /> keep the other half
            </label>
          </>
        )}
      </fieldset>
      <label class="line">
        <input type="checkbox" id="lines" checked={view.lines} onChange={(e) => set({ lines: e.currentTarget.checked })} /> lines of the mesh
      </label>
      {(view.zone !== null || view.show !== 'all') && (
        <button type="button" class="wide" onClick={() => set({ zone: null, show: 'all', ply: null })}>
          Show all of the part
        </button>
      )}
      {props.children}
    </nav>
  );
}
