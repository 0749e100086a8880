/** Reports about people who left, and about accounts with nobody behind them. */
import { api, got, type Schemas } from '../../lib/api';
import { dateOf, momentOf, money } from '../../lib/format';
import { LATENESS } from '../../lib/words';
import { bars, kind, summed, type Kind } from './kinds';

const lasted = (seconds: number | null): string => {
  if (seconds === null) return '';
  if (seconds < 90) return `${Math.round(seconds)} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return seconds < 172_800
    ? `${Math.round(seconds / 3600)} h`
    : `${Math.round(seconds / 86_400)} d`;
};
const found = (name: Schemas['FindingKind'], title: string, says: string): Kind<never> =>
  kind<Schemas['Finding']>({
    name: title,
    says,
    head: ['Who', 'Login', 'Application', 'Since', 'A month'],
    counted: ['A month'],
    file: `findings?kind=${name}`,
    page: (asked, signal) => {
      const query = {
        kind: name,
        limit: asked.limit,
        ...(asked.cursor ? { cursor: asked.cursor } : {})
      };
      return got(api.GET('/api/v1/findings', { params: { query }, signal }));
    },
    row: (r, zone) => [
      ...[r.display_name || 'nobody', r.login ?? '', r.application_name],
      ...[r.since ? dateOf(r.since, zone) : '', money(r.cost)]
    ],
    draw: (rows) => bars(summed(rows, (r) => r.application_name))
  });

const LEAVERS: Omit<Kind<Schemas['CutOffRow']>, 'name' | 'says' | 'draw'> = {
  period: true,
  file: 'leavers',
  head: ['Who', 'Application', 'Login', 'Docket', 'Access ended', 'Known', 'Shut', 'After', 'How'],
  counted: ['After'],
  page: (query, signal) => got(api.GET('/api/v1/reports/leavers', { params: { query }, signal })),
  row: (r, zone) => [
    ...[r.display_name, r.application_name, r.login, r.number],
    ...[r.ended_at, r.known_at].map((at) => momentOf(at, zone)),
    ...[r.cut_at ? momentOf(r.cut_at, zone) : r.problem, lasted(r.seconds)],
    LATENESS[r.lateness] ?? r.lateness
  ]
};
const OF_THEM =
  'Of each person the last leaving that has begun, and the accounts it was to shut; what was shut before, or had to be shut by nobody, is not among them.';

export const PEOPLE_REPORTS: Record<string, Kind<never>> = {
  'cut-offs': kind<Schemas['CutOffRow']>({
    ...LEAVERS,
    name: 'Cut-off times',
    says: `How long after access was to end, or was known to end where that was later. ${OF_THEM}`,
    draw: (rows) => {
      const counted = summed(rows, (r) => r.lateness as string);
      const every = Object.keys(LATENESS) as Schemas['Lateness'][];
      const words = every.filter((word) => counted.has(word));
      return bars(new Map(words.map((word) => [LATENESS[word], counted.get(word)!])));
    }
  }),
  leavers: kind<Schemas['CutOffRow']>({
    ...LEAVERS,
    name: 'Leavers',
    says: `Who left in the period, each account against its moment. ${OF_THEM}`,
    draw: (rows) => bars(summed(rows, (r) => r.ended_at.slice(0, 7)))
  }),
  'access-left': found(
    'leaver-open',
    'Access left',
    'Accounts of people who have left that are open now, as last read; what was accepted for a time is not among them.'
  ),
  nobody: found(
    'nobody-behind',
    'Nobody behind',
    'Accounts of a person’s kind that no person here has, as last read; what was accepted for a time is not among them.'
  )
};
