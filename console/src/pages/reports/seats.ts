/** Reports about seats. */
import { api, got, type Schemas } from '../../lib/api';
import { amount, dateOf, momentOf } from '../../lib/format';
import { bars, kind, summed, type Asking, type Kind } from './kinds';

const price = (row: { amount: string | null; currency: string }): string =>
  row.amount === null ? 'not said' : amount(row.amount, row.currency);

const asked = ({ cursor, limit }: Asking) => ({ query: { limit, ...(cursor ? { cursor } : {}) } });

export const SEAT_REPORTS: Record<string, Kind<never>> = {
  'seats-costs': kind<Schemas['SeatCostRow']>({
    name: 'Costs by month',
    says: 'Who held a seat at a month’s end, at the prices and in the departments of today; seats without a price cost nothing here.',
    head: ['Month', 'Department', 'Application', 'License', 'Seats', 'Cost'],
    counted: ['Seats', 'Cost'],
    page: (a, signal) => got(api.GET('/api/v1/seats/costs', { params: asked(a), signal })),
    row: (r) => [
      r.month.slice(0, 7),
      r.department,
      r.application_name,
      r.license,
      `${r.seats}`,
      price(r)
    ],
    draw: (rows) => {
      const priced = rows.filter((r) => r.amount !== null);
      const sums = summed(
        priced,
        (r) => `${r.month.slice(0, 7)} ${r.currency}`,
        (r) => Number(r.amount)
      );
      return bars(sums).map((b) => ({ ...b, says: amount(b.count.toFixed(2), b.label.slice(8)) }));
    }
  }),
  'seats-reclaimable': kind<Schemas['ReclaimableRow']>({
    name: 'Could come back',
    says: 'The first reason that applies. Where an application does not tell the use, unused seats are not among them.',
    head: ['Application', 'License', 'Account', 'Person', 'Department', 'Because', 'A month'],
    counted: ['A month'],
    page: (a, signal) => got(api.GET('/api/v1/seats/reclaimable', { params: asked(a), signal })),
    row: (r) => [
      ...[r.application_name, r.license, r.login, r.person_name ?? '', r.department],
      ...[r.reason.replaceAll('-', ' '), price(r)]
    ],
    draw: (rows) => bars(summed(rows, (r) => r.reason.replaceAll('-', ' ')))
  }),
  'seats-over': kind<Schemas['OverRow']>({
    name: 'Over',
    says: 'Pools of which more seats are held than were bought.',
    head: ['Application', 'License', 'Bought', 'Held', 'Over', 'Wait'],
    counted: ['Bought', 'Held', 'Over', 'Wait'],
    page: (a, signal) => got(api.GET('/api/v1/seats/over', { params: asked(a), signal })),
    row: (r) => [
      r.application_name,
      r.license,
      ...[r.bought, r.held, r.over, r.waiting].map(String)
    ],
    draw: (rows) =>
      bars(
        summed(
          rows,
          (r) => r.license,
          (r) => r.over
        )
      )
  }),
  'seats-starting': kind<Schemas['StartingRow']>({
    name: 'Begin soon',
    says: 'Whoever begins within ten working days, by the rules in force; seats that leavers give back until then are not counted on.',
    head: ['First day', 'Person', 'Department', 'Application', 'License', 'Seat', 'Order'],
    counted: [],
    page: async (_, signal) => {
      const found = await got(api.GET('/api/v1/seats/starting', { signal }));
      return { items: found.rows, next: null };
    },
    row: (r, zone) => [
      ...[dateOf(r.starts, zone), r.person_name, r.department, r.application_name, r.license],
      ...[r.readiness.replaceAll('-', ' '), r.order]
    ],
    draw: (rows) => bars(summed(rows, (r) => r.readiness.replaceAll('-', ' ')))
  }),
  'seats-held': kind<Schemas['SeatHeldRow']>({
    name: 'Held today',
    says: 'Who held a seat at any moment of today; another period by the command line: yugum seats held.',
    head: ['Person', 'Account', 'Application', 'License', 'Since', 'Until'],
    counted: [],
    page: (a, signal) => got(api.GET('/api/v1/seats/held', { params: asked(a), signal })),
    row: (r, zone) => [
      ...[r.person_name ?? '', r.login ?? '', r.application_name, r.license],
      ...[momentOf(r.since_at, zone), r.until_at ? momentOf(r.until_at, zone) : '']
    ],
    draw: (rows) => bars(summed(rows, (r) => r.license))
  })
};
