// The top of the page.

import { number } from './colours';
import type { Page, Part, Vector } from './data';

const facts = (p: Part) => `${p.elements.toLocaleString('en')} elements · ${number(p.area, 3)} m² · ${number(p.mass)} kg`;

function Name(props: { part: Part }) {
  return (
    <>
      {props.part.name}
      {props.part.variant && <span class="variant"> {props.part.variant}</span>}
    </>
  );
}

export function Head(props: {
  page: Page;
  measuring: boolean;
  onFit: () => void;
  onLook: (from: Vector) => void;
  onMeasure: () => void;
  onSave: () => void;
  onHelp: () => void;
}) {
  const [first, second] = props.page.parts;
  return (
    <header>
      <h1>
        <Name part={first!} />
        {second && (
          <>
            {' and '}
            <Name part={second} />
          </>
        )}
      </h1>
      <p class="facts">{second ? 'turned and cut together' : facts(first!)}</p>
      <div class="actions">
        <button type="button" title="All of the part  f" onClick={props.onFit}>
          Fit
        </button>
        {(['x', 'y', 'z'] as const).map((axis) => (
          <button
            type="button"
            title={`Look along ${axis}  ${axis}`}
            aria-label={`Look along ${axis}`}
            onClick={() => props.onLook([Number(axis === 'x'), Number(axis === 'y'), Number(axis === 'z')])}
          >
            {axis}
          </button>
        ))}
        <button type="button" class={props.measuring ? 'chosen' : ''} aria-pressed={props.measuring} title="Measure between two points  m" onClick={props.onMeasure}>
          Measure
        </button>
        <button type="button" title="Save the picture  s" onClick={props.onSave}>
          Picture
        </button>
        <button type="button" onClick={() => window.print()}>
          Print
        </button>
        <button type="button" aria-label="Keys" title="Keys  ?" onClick={props.onHelp}>
          ?
        </button>
      </div>
    </header>
  );
}
