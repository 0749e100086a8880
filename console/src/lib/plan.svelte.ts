/** Making a plan, looking at it, confirming it: the same way for every verb. */
import { api, got, type Problem, type Schemas } from './api';
import { asProblem } from './load.svelte';
import { router } from './router.svelte';
import { VERBS } from './words';

/** What is asked for; of a `file` of leavers the rows say it. */
export type Wish = Partial<Schemas['NewPlan']> & {
  verb: Schemas['Verb'];
  file?: string;
  /** A pool whose seats are taken back from whom it is for, and why. */
  seats?: { pool: string; why: string };
  /** Seats that are given and taken by hand. */
  turns?: Schemas['SeatTurns'];
};

/** What a dialog that plans it is called. */
export function titleOf(wish: Wish): string {
  if (wish.measure) return 'Precaution';
  if (wish.seats) return 'Take back';
  return wish.turns ? 'Give and take' : (VERBS[wish.verb] ?? wish.verb);
}

export class Planning {
  at = $state('');
  successor = $state('');
  typed = $state('');
  override = $state('');
  confidential = $state(false);
  sensitive = $state(false);
  until = $state('');
  overlap = $state('');
  since = $state('');
  login = $state('');
  given = $state('');
  family = $state('');
  mail = $state('');
  /** Fields of a move, as typed; a dash takes a value away. */
  moved = $state<Record<string, string>>({});
  /** Fields that are right though they look like a slip. */
  private right: Schemas['Doubted'][] = [];
  lastDay = $state('');
  contractEnds = $state('');
  /** Steps that are not to be done, each with why. */
  leftOut = $state.raw<Record<string, string>>({});
  reference = $state('');
  reason = $state('');
  measure = $state<'suspend' | 'secure'>('suspend');
  ground = $state('');
  review = $state('');
  tried = $state.raw<Schemas['Tried'][]>([]);
  batch = $state.raw<Schemas['BatchView'] | null>(null);
  problem = $state.raw<Problem | null>(null);
  busy = $state(false);
  confirmed = false;

  constructor(private readonly wish: Wish) {}

  private get changes(): Record<string, string> {
    const changes: Record<string, string> = {};
    for (const [name, value] of Object.entries(this.moved))
      if (value) changes[name] = value === '–' || value === '-' ? '' : value;
    if (this.login) changes.user_name = this.login;
    if (this.given) changes.given_name = this.given;
    if (this.family) changes.family_name = this.family;
    if (this.mail) changes.mail = this.mail;
    return changes;
  }

  /** A login and an address by the rules, for the names as typed. */
  async suggest(): Promise<void> {
    await this.guarded(async () => {
      const body = { given: this.given, family: this.family };
      const found = await got(api.POST('/api/v1/names/suggest', { body }));
      for (const name of found.names) {
        if (name.kind === 'login') {
          this.login = name.name;
          this.tried = name.tried.filter((t) => t.problem);
        }
        if (name.kind === 'mail') this.mail = name.name;
      }
    });
  }

  /** Whether some of its steps can be left out: what is planned of one's own asking, not of a file or of seats. */
  get takesOut(): boolean {
    return !this.wish.turns && !this.wish.seats && !this.wish.file;
  }

  leaveOut(steps: Record<string, string>): void {
    this.leftOut = steps;
    void this.make();
  }

  isRight(place: string): void {
    this.right = [...this.right, place as Schemas['Doubted']];
    void this.make();
  }

  /** Ask what would happen; nothing happens yet. */
  async make(): Promise<void> {
    await this.guarded(async () => {
      if (this.wish.turns) {
        const { turns } = this.wish;
        this.batch = await got(api.POST('/api/v1/seats/allocations', { body: turns }));
        return;
      }
      if (this.wish.seats) {
        const params = { path: { pool_id: this.wish.seats.pool } };
        const body = { people: this.wish.who ?? [], reason: this.wish.seats.why, ends: '' };
        this.batch = await got(api.POST('/api/v1/seats/{pool_id}/reclaim', { params, body }));
        return;
      }
      if (this.wish.file) {
        const params = { path: { file_id: this.wish.file } };
        this.batch = await got(api.POST('/api/v1/people-files/{file_id}/plan', { params }));
        return;
      }
      const body = {
        ...this.wish,
        at: this.at,
        until: this.until,
        since: this.since,
        overlap_days: this.overlap ? Number(this.overlap) : null,
        successor: this.successor,
        confidential: this.confidential,
        sensitive: this.sensitive,
        changes: this.changes,
        right: this.right,
        last_day: this.lastDay,
        contract_ends: this.contractEnds,
        left_out: { ...this.wish.left_out, ...this.leftOut }
      };
      if (this.wish.measure) {
        const { measure, ground, review } = this;
        Object.assign(body, { measure, ground, review });
      }
      if (this.confidential) {
        const { reference, reason, override } = this;
        Object.assign(body, { reference, reason, override });
      }
      this.batch = await got(api.POST('/api/v1/plans', { body: body as Schemas['NewPlan'] }));
    });
  }

  /** Carry out what was shown, and go to its docket. */
  async confirm(): Promise<void> {
    const batch = this.batch;
    if (!batch) return;
    await this.guarded(async () => {
      const done = await got(
        api.POST('/api/v1/plans/{batch_id}/confirm', {
          params: { path: { batch_id: batch.id } },
          body: {
            digest: batch.digest,
            reference: this.reference,
            reason: this.reason,
            typed: this.typed,
            override: this.override
          }
        })
      );
      this.confirmed = true;
      const [docket, second] = done.dockets;
      if (second) router.go({ page: 'dockets', query: { batch: batch.id } });
      else if (docket) router.go({ page: 'docket', name: docket.number });
    });
  }

  private async guarded(call: () => Promise<void>): Promise<void> {
    this.busy = true;
    try {
      await call();
      this.problem = null;
    } catch (error) {
      this.problem = asProblem(error);
    } finally {
      this.busy = false;
    }
  }
}
