// A laminate as numbers with their meaning.

import { number } from './colours';
import { matrices, type Part } from './data';

/** What the entries of a matrix mean for the part: row by row. */
const meanings: Record<string, string[][]> = {
  A: [
    ['pulled along x: how stiff', 'pulled along x, it narrows along y', 'pulled along x, it shears'],
    ['pulled along y, it narrows along x', 'pulled along y: how stiff', 'pulled along y, it shears'],
    ['sheared, it stretches along x', 'sheared, it stretches along y', 'sheared: how stiff'],
  ],
  B: [
    ['pulled along x, it bends along x', 'pulled along x, it bends along y', 'pulled along x, it twists'],
    ['pulled along y, it bends along x', 'pulled along y, it bends along y', 'pulled along y, it twists'],
    ['sheared, it bends along x', 'sheared, it bends along y', 'sheared, it twists'],
  ],
  D: [
    ['bent along x: how stiff', 'bent along x, it curls along y', 'bent along x, it twists'],
    ['bent along y, it curls along x', 'bent along y: how stiff', 'bent along y, it twists'],
    ['twisted, it bends along x', 'twisted, it bends along y', 'twisted: how stiff'],
  ],
  H: [
    ['sheared across in xz: how stiff', 'sheared in xz, it shears in yz'],
    ['sheared in yz, it shears in xz', 'sheared across in yz: how stiff'],
  ],
};

/** One sentence on the couplings that a matrix has or has not. */
function couplings(name: string, of: number[][], least: number): string {
  const has = (...places: [number, number][]) => places.some(([i, j]) => Math.abs(of[i]![j]!) > least);
  switch (name) {
    case 'A':
      return has([0, 2], [1, 2]) ? 'A16, A26: pulled, it shears.' : 'No A16, A26: pulled, it does not shear.';
    case 'B': {
      const bends = has([0, 0], [0, 1], [1, 1]);
      const twists = has([0, 2], [1, 2]);
      const sheared = has([2, 2]) ? ' B66: sheared, it twists.' : '';
      if (!bends && !twists && !sheared) return 'No B: pulled in the plane of the mesh, it stays flat.';
      return `${bends ? 'B11, B12, B22: pulled in the plane of the mesh, it bends.' : ''}${twists ? ' B16, B26: it twists.' : ''}${sheared}`.trim();
    }
    case 'D':
      return has([0, 2], [1, 2]) ? 'D16, D26: bent, it twists.' : 'No D16, D26: bent, it does not twist.';
    default:
      return '';
  }
}

/** A matrix; what is small against the largest of its kind is nought. */
function Matrix(props: { name: string; unit: string; of: number[][]; least: number; note: string }) {
  const { name, of, least } = props;
  const words = couplings(name, of, least);
  return (
    <>
      <table class="matrix">
        <caption>
          <b>{name}</b> <span class="faint">{props.unit}</span> <span class="note">{props.note}</span>
        </caption>
        <tbody>
          {of.map((row, i) => (
            <tr>
              {row.map((v, j) => {
                const nought = Math.abs(v) <= least;
                return (
                  <td class={nought ? 'nought' : i === j ? 'diagonal' : ''} title={`${name}${'126'[i]}${'126'[j]}: ${meanings[name]![i]![j]!}`}>
                    {nought ? '0' : number(v)}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {words && <p class="about">{words}</p>}
    </>
  );
}

export function Reading(props: { part: Part; element: number }) {
  const { part, element } = props;
  const s = part.sectionOf[element]!;
  const section = part.sections[s]!;
  const m = matrices(part, s);
  const norm = (a: number[][]) => Math.hypot(...a.flat());
  const { force, length, line_force, stress } = part.units;
  const rows = ['in plane, free to bend', 'in plane, bending held', 'in bending'];
  return (
    <>
      <h3>What it does</h3>
      <ul class="words">
        {section.words.map((w) => (
          <li>{w}</li>
        ))}
      </ul>
      <h3>
        Stiffness <span class="faint">about the mesh; rows x, y, xy; point at a number for its meaning</span>
      </h3>
      <Matrix name="A" unit={line_force} of={m.A} least={1e-6 * norm(m.A)} note="stretching and shearing" />
      <Matrix name="B" unit={force} of={m.B} least={1e-6 * norm(m.A) * section.thickness} note="stretching into bending" />
      <Matrix name="D" unit={`${force} ${length}`} of={m.D} least={1e-6 * norm(m.D)} note="bending and twisting" />
      <Matrix name="H" unit={line_force} of={m.H} least={1e-6 * norm(m.H)} note="transverse shear xz, yz" />
      <h3>
        Engineering constants <span class="faint">{stress}</span>
      </h3>
      <table class="numbers">
        <thead>
          <tr>
            <th />
            <th>Ex</th>
            <th>Ey</th>
            <th>Gxy</th>
            <th>νxy</th>
          </tr>
        </thead>
        <tbody>
          {section.constants.map((c, i) => (
            <tr>
              <th scope="row">{rows[i]}</th>
              {c.map((v, k) => (
                <td>{number(v, k === 3 ? 3 : 4)}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
