/** The phases of a plan in their order, and steps counted in words. */
import type { Schemas } from './api';
import { plural } from './format';
import { PLANNED } from './words';

export const PHASES = [
  'secure',
  'mail',
  'hand over',
  'reclaim',
  'account',
  'access',
  'credential',
  'close',
  'purge'
];

const NOUNS: Record<string, string> = {
  revoke: 'entitlement',
  grant: 'entitlement',
  free_seat: 'seat',
  take_seat: 'seat',
  set: 'setting',
  transfer: 'kind of item'
};
const DONE: Record<string, string> = {
  revoke: 'removed',
  grant: 'granted',
  free_seat: 'freed',
  take_seat: 'taken',
  set: 'changed',
  transfer: 'handed over'
};

type PlanStep = Schemas['PlanView']['steps'][number];

/** `3 entitlements removed`, `cut off`: one line for each kind of step. */
export function counted(steps: PlanStep[]): string[] {
  const counts: Record<string, number> = {};
  for (const step of steps) counts[step.action] = (counts[step.action] ?? 0) + 1;
  return Object.entries(counts).map(([action, count]) => {
    const noun = NOUNS[action];
    if (!noun) return `${PLANNED[action] ?? action}${count > 1 ? ` × ${count}` : ''}`;
    const many = noun === 'kind of item' ? 'kinds of items' : undefined;
    return `${plural(count, noun, many)} ${DONE[action]}`;
  });
}
