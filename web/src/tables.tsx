// Plies, zones, findings and differences as lists that lead to the picture.

import { css, direction, number } from './colours';
import type { Comparison, Finding, Page, Part, Shows } from './data';
import type { View } from './view';

export type Set = (change: Partial<View>) => void;

export function onEnter(act: () => void) {
  return (event: KeyboardEvent) => {
    if (event.key !== 'Enter' && event.key !== ' ') return;
    event.preventDefault();
    act();
  };
}

export function PlyTable(props: { part: Part; view: View; set: Set; here: number | null }) {
  const { part, view, set } = props;
  const lying = props.here === null ? null : new Set(part.stacks[part.stackOf[props.here]!]!.plies);
  return (
    <>
      <p class="hint">
        In laying order: the first lies against the tool. Choose one to see it{lying ? '; ● lies at the place that is chosen' : ''}.
      </p>
      <table class="list">
        <thead>
          <tr>
            <th scope="col">ply</th>
            <th scope="col">angle</th>
            <th scope="col">material</th>
            <th scope="col" class="number">
              t {part.units.length}
            </th>
            <th scope="col">zone</th>
            <th scope="col" class="number">
              m²
            </th>
          </tr>
        </thead>
        <tbody>
          {part.plies.map((p, i) => {
            const choose = () => set({ ply: view.ply === p.id ? null : p.id, show: view.show === 'all' ? 'alone' : view.show });
            return (
              <tr
                key={p.id}
                tabIndex={0}
                data-ply={p.id}
                aria-selected={view.ply === p.id}
                class={view.ply === p.id ? 'chosen' : ''}
                onClick={choose}
                onKeyDown={onEnter(choose)}
                title={[part.frames[p.frame]!.name && `frame ${part.frames[p.frame]!.name}`, p.group && `group ${p.group}`, p.note, `${p.elements} elements in ${p.pieces} piece${p.pieces === 1 ? '' : 's'}`, p.mass === null ? '' : `${number(p.mass, 3)} kg`].filter(Boolean).join(', ')}
              >
                <th scope="row">
                  <span class="mark">{lying?.has(i) ? '●' : ''}</span>
                  {p.id}
                </th>
                <td class="angle">
                  <span class="swatch small" style={{ background: css(direction(p.angle)) }} />
                  {number(p.angle)}°
                </td>
                <td>{part.materials[p.material]!.name}</td>
                <td class="number">{number(p.thickness)}</td>
                <td>{part.zones[p.zone]!.name}</td>
                <td class="number">{number(p.area, 3)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}

export function ZoneTable(props: { part: Part; view: View; set: Set; at: string[] }) {
  const { part, view, set } = props;
  return (
    <>
      <p class="hint">Choose one to see it alone{props.at.length > 0 ? '; ● holds the place that is chosen' : ''}.</p>
      <table class="list">
        <thead>
          <tr>
            <th scope="col">zone</th>
            <th scope="col" class="number">
              elements
            </th>
            <th scope="col" class="number">
              m²
            </th>
            <th scope="col" class="number">
              kg
            </th>
            <th scope="col" class="number">
              plies
            </th>
          </tr>
        </thead>
        <tbody>
          {part.zones.map((z, i) => {
            const choose = () => set({ zone: view.zone === z.name ? null : z.name });
            return (
              <tr
                key={z.name}
                tabIndex={0}
                data-zone={z.name}
                aria-selected={view.zone === z.name}
                class={view.zone === z.name ? 'chosen' : ''}
                onClick={choose}
                onKeyDown={onEnter(choose)}
              >
                <th scope="row">
                  <span class="mark">{props.at.includes(z.name) ? '●' : ''}</span>
                  {z.name}
                </th>
                <td class="number">{z.elements}</td>
                <td class="number">{number(z.area, 3)}</td>
                <td class="number">{number(z.mass, 3)}</td>
                <td class="number">{part.plies.filter((p) => p.zone === i).length}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}

const signs = { error: '■', warning: '▲', note: '○' } as const;

export function FindingList(props: { findings: Finding[]; onShow: (shows: Shows) => void }) {
  if (props.findings.length === 0) return <p class="hint">Nothing was found.</p>;
  return (
    <ul class="findings">
      {props.findings.map((f) => {
        const text = (
          <>
            <span class={`sign ${f.severity}`} aria-hidden="true">
              {signs[f.severity]}
            </span>
            <span>
              <span class="faint">
                {f.severity} {f.code}
              </span>
              <br />
              {f.what}
              {f.remedy && <em> {f.remedy}</em>}
              {f.where && <span class="faint"> {f.where}</span>}
            </span>
          </>
        );
        return (
          <li>
            {f.shows ? (
              <button type="button" class="finding leads" onClick={() => props.onShow(f.shows!)}>
                {text}
              </button>
            ) : (
              <div class="finding">{text}</div>
            )}
          </li>
        );
      })}
    </ul>
  );
}

export function Differences(props: { page: Page; comparison: Comparison; view: View; set: Set }) {
  const { page, comparison, view, set } = props;
  const areas = page.parts.map((p) => {
    let other = 0;
    let only = 0;
    p.differs?.forEach((d, e) => {
      if (d === 1) other += p.areas[e]!;
      if (d === 2) only += p.areas[e]!;
    });
    return { other: other * p.units.metre ** 2, only: only * p.units.metre ** 2 };
  });
  const signsOf = { added: '+', removed: '−', moved: '↕', changed: '≠' } as const;
  return (
    <>
      <p>
        <button type="button" class={view.colour === 'differs' ? 'wide chosen' : 'wide'} onClick={() => set({ colour: view.colour === 'differs' ? 'thickness' : 'differs' })}>
          Mark the differences
        </button>
      </p>
      <p class="hint">
        Other plies on {number(areas[1]!.other, 3)} m²{areas.some((a) => a.only > 0) && `; only in the first ${number(areas[0]!.only, 3)} m², only in the second ${number(areas[1]!.only, 3)} m²`}.
      </p>
      <table class="numbers">
        <thead>
          <tr>
            <th>figure</th>
            <th>first</th>
            <th>second</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {comparison.figures.map((f) => (
            <tr>
              <th scope="row">
                {f.name} <span class="faint">{f.unit}</span>
              </th>
              <td>{number(f.before)}</td>
              <td>{number(f.after)}</td>
              <td class="faint">{f.before !== 0 && `${f.after >= f.before ? '+' : '−'}${number(Math.abs((f.after / f.before - 1) * 100), 3)} %`}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <ul class="changes">
        {comparison.changes.map((c) => (
          <li>
            <b aria-hidden="true">{signsOf[c.what]}</b> {c.what} {c.kind === c.name ? '' : c.kind}{' '}
            {c.kind === 'ply' ? (
              <button type="button" class="link" onClick={() => set({ ply: c.name, show: 'alone' })}>
                {c.name}
              </button>
            ) : (
              c.name
            )}
            {c.detail && <span class="faint"> {c.detail.replaceAll('->', '→')}</span>}
          </li>
        ))}
      </ul>
    </>
  );
}

