// The laminate at the chosen place.

import { number } from './colours';
import type { Part } from './data';
import { EnvelopePanel } from './envelope';
import { Polar } from './polar';
import { Reading } from './reading';
import { StressPanel } from './results';
import { StackDrawing, zonesAt } from './stack';
import type { Set } from './tables';
import type { View } from './view';

export function PlacePanel(props: { part: Part; element: number; view: View; set: Set; goThere: () => void }) {
  const { part, element, view, set } = props;
  const envelope = <EnvelopePanel part={part} element={element} view={view} set={set} />;
  const stack = part.stacks[part.stackOf[element]!]!;
  return (
    <>
      <h2>
        Element {part.ids[element]!}{' '}
        <button type="button" class="link" onClick={props.goThere}>
          go there
        </button>
      </h2>
      <p class="code">{stack.code}</p>
      <p class="about">
        {number(stack.thickness)} {part.units.length} · {stack.plies.length} plies · {number(stack.mass, 3)} kg/m² · {stack.thicknesses ? 'thickness varies' : `laminate ${part.stackOf[element]! + 1}`}, section{' '}
        {part.sectionOf[element]! + 1}
      </p>
      <p class="about zones">
        {zonesAt(part, element).map((name) => (
          <button type="button" class={view.zone === name ? 'chip chosen' : 'chip'} onClick={() => set({ zone: view.zone === name ? null : name })}>
            {name}
          </button>
        ))}
      </p>
      <StackDrawing
        part={part}
        element={element}
        ply={view.ply}
        onPly={(id) => set({ ply: view.ply === id ? null : id, show: view.show === 'all' ? 'alone' : view.show })}
      />
      {part.results && <StressPanel part={part} element={element} view={view} set={set} />}
      {part.results && envelope}
      <Reading part={part} element={element} />
      <Polar part={part} element={element} />
      {!part.results && envelope}
    </>
  );
}

export function NoPlace() {
  return (
    <div class="hint">
      <p>Click a place to see its laminate: every layer to scale, A, B, D and what they mean, stiffness against direction.</p>
      <p>Drag to turn, right button to move, wheel to zoom; ? lists the keys.</p>
    </div>
  );
}
