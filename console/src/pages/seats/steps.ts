/** A step chart of seats: what was, today, and what is to come. */
import type { Schemas } from '../../lib/api';

export interface Span {
  begins: string;
  ends: string;
  bought: number;
  taken: number;
  ahead: boolean;
}

export interface Step extends Span {
  x: number;
  width: number;
  boughtY: number;
  takenY: number;
}

export interface Chart {
  width: number;
  height: number;
  today: number;
  months: number;
  top: number;
  steps: Step[];
  bought: string;
  taken: string;
  ticks: Array<{ y: number; count: number }>;
}

const WEEKS = 13;
const WIDTH = 900;
const HEIGHT = 200;
const LEFT = 44;
const BOTTOM = 22;
const TOP = 12;

/** What was, week by week, and what comes, in one row. */
export function spans(view: Schemas['ForecastView']): Span[] {
  const past = view.past.map((p, n) => ({
    begins: p.day,
    ends: view.past[n + 1]?.day ?? view.today,
    bought: p.bought,
    taken: p.taken,
    ahead: false
  }));
  return [...past, ...view.periods.map((p) => ({ ...p, ahead: true }))];
}

/** A whole number of seats, with room above the most there are. */
function scale(most: number): number {
  const step = 10 ** Math.max(0, Math.floor(Math.log10(Math.max(1, most))) - 1) * 5;
  return Math.max(step, Math.ceil((most * 1.05) / step) * step);
}

/** Where everything of the chart stands, in its own units: each week and each month is as wide. */
export function chart(view: Schemas['ForecastView']): Chart {
  const all = spans(view);
  const most = scale(Math.max(0, ...all.flatMap((s) => [s.bought, s.taken])));
  const x = (n: number): number => LEFT + (n / all.length) * (WIDTH - LEFT);
  const y = (count: number): number => HEIGHT - BOTTOM - (count / most) * (HEIGHT - BOTTOM - TOP);
  const steps = all.map((span, n) => ({
    ...span,
    x: x(n),
    width: x(n + 1) - x(n),
    boughtY: y(span.bought),
    takenY: y(span.taken)
  }));
  const line = (of: 'boughtY' | 'takenY'): string =>
    steps.map((s, n) => `${n ? 'V' : `M${s.x} `}${s[of]}H${s.x + s.width}`).join('');
  return {
    width: WIDTH,
    height: HEIGHT,
    today: x(view.past.length),
    months: x(view.past.length + WEEKS),
    top: TOP,
    steps,
    bought: line('boughtY'),
    taken: line('takenY'),
    ticks: [0, most / 2, most].filter(Number.isInteger).map((count) => ({ y: y(count), count }))
  };
}
