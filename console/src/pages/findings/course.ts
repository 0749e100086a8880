/** How many findings there were, day by day, as a line of steps. */
import type { Schemas } from '../../lib/api';

type Day = Schemas['FindingDay'];

export interface Point {
  day: string;
  count: number;
  /** There were as many and more. */
  over: boolean;
}

export interface Course {
  width: number;
  height: number;
  floor: number;
  /** Where the days were counted; between two such pieces nobody did. */
  line: string;
  gaps: string;
  ticks: Array<{ y: number; count: number }>;
}

const HEIGHT = 150;
const LEFT = 52;
const BOTTOM = 22;
const TOP = 10;
const DAY = 86_400_000;

const number = (day: string): number => Date.parse(day) / DAY;

/** Of one kind, or of all of them. */
export function points(days: Day[], kind: string): Point[] {
  return days.map((d) => ({
    day: d.day,
    count: kind ? (d.counts.find((c) => c.kind === kind)?.count ?? 0) : d.found,
    over: kind ? d.over.some((k) => k === kind) : d.over.length > 0
  }));
}

/** The days with the last one as it is now: it was counted earlier today. */
export function untilNow(days: Day[], today: string, now: Schemas['FindingCount'][]): Day[] {
  if (!today) return days;
  const last = {
    day: today,
    found: now.reduce((sum, c) => sum + c.count, 0),
    counts: now.map(({ kind, count }) => ({ kind, count })),
    over: now.filter((c) => c.over).map((c) => c.kind)
  };
  return [...days.filter((d) => d.day < today), last];
}

/** The next number above that is easily halved. */
function top(most: number): number {
  const step = 10 ** Math.max(0, Math.floor(Math.log10(Math.max(1, most)))) * 2;
  return Math.max(2, Math.ceil(most / step) * step);
}

/** Each day as wide as the next, the last one to the edge. */
export function course(found: Point[], width = 900): Course {
  const first = number(found[0]?.day ?? '1970-01-01');
  const days = number(found.at(-1)?.day ?? '1970-01-01') - first + 1;
  const most = top(Math.max(0, ...found.map((p) => p.count)));
  const floor = HEIGHT - BOTTOM;
  const x = (day: string, after = 0): number =>
    LEFT + ((number(day) - first + after) / days) * (width - LEFT);
  const y = (count: number): number => floor - (count / most) * (floor - TOP);
  let line = '';
  let gaps = '';
  found.forEach((p, n) => {
    const before = found[n - 1];
    const next = before && number(p.day) - number(before.day) === 1;
    line += next ? `V${y(p.count)}` : `M${x(p.day)} ${y(p.count)}`;
    line += `H${x(p.day, 1)}`;
    if (before && !next)
      gaps += `M${x(before.day, 1)} ${y(before.count)}L${x(p.day)} ${y(p.count)}`;
  });
  const ticks = [0, most / 2, most].map((count) => ({ y: y(count), count }));
  return { width, height: HEIGHT, floor, line, gaps, ticks };
}

const counted = (p: Point): string => `${p.over ? 'over ' : ''}${p.count.toLocaleString('en-GB')}`;

/** The course in a sentence. */
export function said(found: Point[], date: (day: string) => string): string {
  const [first, last] = [found[0], found.at(-1)];
  if (!first || !last) return 'Nothing was counted yet.';
  const most = found.reduce((a, b) => (b.count > a.count ? b : a));
  const end = `${counted(last)} on ${date(last.day)}`;
  const peak = [first, last].includes(most)
    ? ''
    : `, at most ${counted(most)} on ${date(most.day)}`;
  return first === last ? `${end}.` : `${counted(first)} on ${date(first.day)}${peak}, ${end}.`;
}
