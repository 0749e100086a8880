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

/** Seats that were bought until a day: how long they count. */
export interface Term {
  key: string;
  x: number;
  width: number;
  y: number;
  says: string;
}

export interface Chart {
  terms: Term[];
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
const HEIGHT = 200;
const LEFT = 44;
const BOTTOM = 22;
const TOP = 12;
const BAND = 14;
const MOST_BANDS = 5;

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

/** Terms that end as bands, the first to end on top; what does not fit is told below the chart. */
function bands(view: Schemas['ForecastView'], all: Span[], x: (n: number) => number): Term[] {
  const at = (day: string): number => {
    const n = all.findIndex((s) => day < s.ends || (s.ahead && day === s.ends));
    return n < 0 ? all.length : n;
  };
  return view.renewals.slice(0, MOST_BANDS).map(({ purchase, ends }, n) => {
    const from = x(purchase.begins ? at(purchase.begins) : 0);
    return {
      key: purchase.id,
      x: from,
      width: Math.max(4, x(at(ends) + 1) - from),
      y: TOP + n * BAND,
      says: `${purchase.count} until ${ends}`
    };
  });
}

/** Where everything of the chart stands, in its own units: each week and each month is as wide. */
export function chart(view: Schemas['ForecastView'], width = 900): Chart {
  const all = spans(view);
  const most = scale(Math.max(0, ...all.flatMap((s) => [s.bought, s.taken])));
  const x = (n: number): number => LEFT + (n / all.length) * (width - LEFT);
  const terms = bands(view, all, x);
  const top = TOP + terms.length * BAND;
  const height = HEIGHT + terms.length * BAND;
  const y = (count: number): number => height - BOTTOM - (count / most) * (height - BOTTOM - top);
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
    width,
    height,
    terms,
    today: x(view.past.length),
    months: x(view.past.length + WEEKS),
    top,
    steps,
    bought: line('boughtY'),
    taken: line('takenY'),
    ticks: [0, most / 2, most].filter(Number.isInteger).map((count) => ({ y: y(count), count }))
  };
}
