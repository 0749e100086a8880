/** What becomes of what somebody owns, in words. */
import type { Schemas } from './api';
import { plural } from './format';

type Kind = Pick<Schemas['OwnedRow'], 'settled' | 'to_name' | 'text' | 'ground'>;
type Things = Pick<Schemas['OwnedRow'], 'thing' | 'count' | 'matching'>;
const GROUNDS: Record<string, string> = {
  rules: 'by the rules',
  chain: 'next manager',
  custodian: 'custodian: nobody had settled it'
};

export function newHome(row: Kind): string {
  if (row.settled === 'to') return `to ${row.to_name}`;
  if (row.settled === 'copied') return `copied for ${row.to_name}, goes with the account`;
  if (row.settled === 'kept') return 'kept with the account';
  return row.settled === 'goes' ? 'goes with the account' : `open: ${row.text}`;
}

const called = (row: Things): string => (row.matching ? ` called ${row.matching}` : '');

/** What it is about: a kind of thing, or those of it that are called so. */
export const things = (row: Things): string => plural(row.count, row.thing) + called(row);
export const kindOf = (row: Things): string => row.thing + called(row);

/** Why it is so, where no operator gave a reason. */
export const because = (row: Kind): string => GROUNDS[row.ground ?? ''] ?? '';

/** Whether only somebody's agreement is missing. */
export const asked = (row: Pick<Schemas['OwnedRow'], 'code'>): boolean =>
  row.code === 'to-ask' || row.code === 'not-accepted';

/** What somebody has said to taking it over. */
export const TAKEOVERS: Record<Schemas['TakeoverQuestion']['answer'], string> = {
  open: 'not answered yet',
  accepted: 'you take it over',
  'passed-on': 'passed on',
  declined: 'declined',
  unanswered: 'not answered in time'
};
