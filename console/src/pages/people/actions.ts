/** What can be done with an account as it stands. */
import type { Schemas } from '../../lib/api';

type Action = NonNullable<Schemas['NewPlan']['action']>;
const ACTIONS: Record<string, [Action, string][]> = {
  active: [
    ['suspend', 'Suspend …'],
    ['archive', 'Archive …'],
    ['delete', 'Delete …']
  ],
  suspended: [
    ['resume', 'Resume …'],
    ['archive', 'Archive …'],
    ['delete', 'Delete …'],
    ['purge', 'Purge …']
  ],
  archived: [
    ['reopen', 'Reopen …'],
    ['delete', 'Delete …']
  ],
  deleted: [
    ['restore', 'Restore …'],
    ['purge', 'Purge …']
  ]
};
const AGAIN: [Action, string][] = [['invite', 'Invite again …']];

export function offeredOf(account: Schemas['AccountLine']): [Action, string][] {
  return [...(account.invited_at ? AGAIN : []), ...(ACTIONS[account.state] ?? [])];
}
