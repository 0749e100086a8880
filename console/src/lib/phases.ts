/** The phases of a plan in their order, and steps counted in words. */
import type { Schemas } from './api';
import { plural } from './format';
import { PLANNED } from './words';

type Action = Schemas['Action'];

export const PHASES: Schemas['Phase'][] = [
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

const NOUNS: Partial<Record<Action, string>> = {
  revoke: 'entitlement',
  grant: 'entitlement',
  free_seat: 'seat',
  take_seat: 'seat'
};
const DONE: Partial<Record<Action, string>> = {
  revoke: 'removed',
  grant: 'granted',
  free_seat: 'freed',
  take_seat: 'taken'
};

type PlanStep = Schemas['PlanView']['steps'][number];

/** `3 entitlements removed`, `cut off`: one line for each kind of step. */
export function counted(steps: PlanStep[]): string[] {
  const counts = new Map<Action, number>();
  const named = steps.filter((s) => s.action === 'transfer' || s.action === 'set');
  const lines = named.map((s) =>
    s.action === 'set' ? `${s.item} set` : `${s.before.replace(/ owned$/, '')} ${s.after}`
  );
  steps = steps.filter((s) => !named.includes(s));
  for (const step of steps) counts.set(step.action, (counts.get(step.action) ?? 0) + 1);
  const many = [...counts].map(([action, count]) => {
    const noun = NOUNS[action];
    if (!noun) return `${PLANNED[action] ?? action}${count > 1 ? ` × ${count}` : ''}`;
    return `${plural(count, noun)} ${DONE[action]}`;
  });
  return [...many, ...lines];
}
