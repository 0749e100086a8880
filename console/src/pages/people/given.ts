/** Where a drawing puts who had what and who has it now: things on the left, their holders on the right. */
import type { Schemas } from '../../lib/api';
import { plural } from '../../lib/format';

export type Row = Schemas['GivenRow'];
export const WIDTH = 760;
const LEFT = 300;
const RIGHT = 480;
const TOP = 8;
const STEP = 34;
/** A line is as thick as the root of how many things it stands for, within what can be told apart. */
const THICK = { least: 1.5, most: 14 };

export interface End {
  name: string;
  y: number;
}
export interface Line {
  path: string;
  width: number;
  /** Whether it is where it was given to, and not with somebody else by now. */
  stays: boolean;
  said: string;
}
export interface Drawing {
  height: number;
  things: End[];
  holders: End[];
  lines: Line[];
}

export const thingOf = (row: Row): string => `${row.thing} in ${row.application_name}`;
export const holderOf = (row: Row): string => row.now_name || 'nobody who is known';
export const stays = (row: Row): boolean =>
  row.now_name !== '' && row.now_id === row.to_id && row.now_name === row.to_name;

function ends(names: string[], height: number): Map<string, End> {
  const all = [...new Set(names)];
  const gap = height / all.length;
  return new Map(all.map((name, n) => [name, { name, y: TOP + gap * (n + 0.5) }]));
}

export function draw(rows: Row[]): Drawing {
  const counts = new Map<string, number>();
  for (const row of rows) counts.set(thingOf(row), (counts.get(thingOf(row)) ?? 0) + row.count);
  const labels = (row: Row): string =>
    `${plural(counts.get(thingOf(row))!, row.thing)} · ${row.application_name}`;
  const most = Math.max(new Set(rows.map(labels)).size, new Set(rows.map(holderOf)).size);
  const height = most * STEP;
  const things = ends(rows.map(labels), height);
  const holders = ends(rows.map(holderOf), height);
  const lines = rows.map((row) => {
    const from = things.get(labels(row))!.y;
    const to = holders.get(holderOf(row))!.y;
    const middle = (LEFT + RIGHT) / 2;
    return {
      path: `M${LEFT} ${from}C${middle} ${from} ${middle} ${to} ${RIGHT} ${to}`,
      width: Math.min(THICK.most, THICK.least * Math.sqrt(row.count)),
      stays: stays(row),
      said: `${plural(row.count, row.thing)} by ${row.number} to ${row.to_name}`
    };
  });
  return {
    height: height + 2 * TOP,
    things: [...things.values()],
    holders: [...holders.values()],
    lines
  };
}
