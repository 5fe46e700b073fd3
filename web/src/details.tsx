// The side of the page: the place, plies, zones, ramps, findings, differences. Paper shows all of them.

import type { ComponentChildren } from 'preact';
import { ClothList } from './cloth';
import type { Page, Part, Shows } from './data';
import { NoPlace, PlacePanel } from './place';
import { RampList } from './ramps';
import { WorstTable } from './results';
import { zonesAt } from './stack';
import { Differences, FindingList, PlyTable, ZoneTable, type Set } from './tables';
import type { Tab, View } from './view';

function Panel(props: { tab: Tab; now: Tab; title: string; children: ComponentChildren }) {
  return (
    <section id={`panel-${props.tab}`} role="tabpanel" aria-labelledby={`tab-${props.tab}`} hidden={props.now !== props.tab}>
      {props.tab !== 'place' && <h2 class="on-paper">{props.title}</h2>}
      {props.children}
    </section>
  );
}

export function Details(props: {
  page: Page;
  part: Part;
  place: { part: number; element: number } | null;
  view: View;
  set: Set;
  onSide: (part: number) => void;
  onShow: (shows: Shows, part: number) => void;
  goThere: () => void;
}) {
  const { page, part, place, view, set } = props;
  const told = part.findings.filter((f) => f.severity !== 'note').length;
  // A tab of one part stays while the other is looked at, which may have nothing to say there.
  const any = (has: (p: Part) => boolean) => page.parts.some(has);
  const none = (what: string) => <p class="about">This part has no {what}.</p>;
  const tabs: [Tab, string][] = [
    ['place', 'Place'],
    ['plies', 'Plies'],
    ['zones', 'Zones'],
    ...(any((p) => p.ramps.length + p.profiles.length > 0) ? [['ramps', 'Ramps'] as [Tab, string]] : []),
    ...(any((p) => p.cloths.length > 0) ? [['cloth', 'Cloth'] as [Tab, string]] : []),
    ...(any((p) => p.results !== null && p.results !== undefined) ? [['results', 'Results'] as [Tab, string]] : []),
    ['findings', told > 0 ? `Findings ${told}` : 'Findings'],
    ...(page.comparison ? [['differences', 'Differences'] as [Tab, string]] : []),
  ];
  return (
    <aside aria-label="Details">
      {page.parts.length > 1 && (
        <div class="choice sides" role="radiogroup" aria-label="Part">
          {page.parts.map((p, i) => (
            <button type="button" role="radio" aria-checked={part === p} class={part === p ? 'chosen' : ''} onClick={() => props.onSide(i)}>
              {i === 0 ? 'first' : 'second'} {p.variant || p.name}
            </button>
          ))}
        </div>
      )}
      <div class="tabs" role="tablist">
        {tabs.map(([key, label]) => (
          <button type="button" role="tab" id={`tab-${key}`} aria-selected={view.tab === key} aria-controls={`panel-${key}`} onClick={() => set({ tab: key })}>
            {label}
          </button>
        ))}
      </div>
      <Panel tab="place" now={view.tab} title="Place">
        {place ? <PlacePanel part={part} element={place.element} view={view} set={set} goThere={props.goThere} /> : <NoPlace />}
      </Panel>
      <Panel tab="plies" now={view.tab} title="Plies">
        <PlyTable part={part} view={view} set={set} here={place?.element ?? null} />
      </Panel>
      <Panel tab="zones" now={view.tab} title="Zones">
        <ZoneTable part={part} view={view} set={set} at={place ? zonesAt(part, place.element) : []} />
      </Panel>
      {tabs.some(([key]) => key === 'ramps') && (
        <Panel tab="ramps" now={view.tab} title="Ramps">
          {part.ramps.length + part.profiles.length > 0 ? <RampList part={part} ply={view.ply} set={set} /> : none('ramps')}
        </Panel>
      )}
      {tabs.some(([key]) => key === 'cloth') && (
        <Panel tab="cloth" now={view.tab} title="Cloth">
          {part.cloths.length > 0 ? <ClothList part={part} view={view} set={set} place={place?.element ?? null} /> : none('draped cloth')}
        </Panel>
      )}
      {tabs.some(([key]) => key === 'results') && (
        <Panel tab="results" now={view.tab} title="Results">
          {part.results ? <WorstTable part={part} view={view} set={set} onShow={(shows) => props.onShow(shows, page.parts.indexOf(part))} /> : none('results')}
        </Panel>
      )}
      <Panel tab="findings" now={view.tab} title="Findings">
        <FindingList findings={part.findings} onShow={(shows) => props.onShow(shows, page.parts.indexOf(part))} />
      </Panel>
      {page.comparison && (
        <Panel tab="differences" now={view.tab} title="Differences">
          <Differences page={page} comparison={page.comparison} view={view} set={set} />
        </Panel>
      )}
    </aside>
  );
}
