/** A decision about somebody as it is being said: what of it belongs to its kind is sent. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';
import { changed } from '../../lib/query.svelte';

type Kind = Schemas['NewDecision']['kind'];
type Holding = 'account' | 'entitlement' | 'seat' | 'setting';

/** In the order in which they are offered. */
export const KINDS: Record<Kind, string> = {
  role: 'has a role, whatever its condition says',
  grant: 'is given something',
  deny: 'is not given something',
  suspend: 'is suspended in one application',
  successor: 'has somebody who takes over from them',
  hold: 'is kept from deletion and purge'
};
export const HOLDINGS: Record<Holding, string> = {
  account: 'an account',
  entitlement: 'an entitlement',
  seat: 'a seat',
  setting: 'a setting'
};

export class Deciding extends Acts {
  kind = $state<Kind>('role');
  holding = $state<Holding>('entitlement');
  application = $state('');
  item = $state('');
  value = $state('');
  role = $state('');
  person = $state('');
  ends = $state('');
  reason = $state('');
  /** What somebody said is right though nobody knows it there: that, and nothing typed after it. */
  private fresh = $state('');

  constructor(private readonly who: string) {
    super();
  }

  get isException(): boolean {
    return this.kind === 'grant' || this.kind === 'deny';
  }

  private get thing(): string {
    return [this.application, this.holding, this.item].join('\n');
  }

  get isNew(): boolean {
    return this.fresh === this.thing;
  }

  set isNew(right: boolean) {
    this.fresh = right ? this.thing : '';
  }

  /** Whether a plan follows from it: of the others something comes only when they leave. */
  get follows(): boolean {
    return this.kind !== 'hold' && this.kind !== 'successor';
  }

  private get payload(): Schemas['DecisionPayload'] {
    const { application, holding, item, value, role, person } = this;
    if (this.kind === 'role') return { role };
    if (this.kind === 'successor') return { person };
    if (this.kind === 'suspend') return { application };
    if (!this.isException) return {};
    if (holding === 'account') return { application, kind: holding };
    return { application, kind: holding, item, ...(holding === 'setting' ? { value } : {}) };
  }

  decide(done: (follows: boolean) => void): Promise<void> {
    return this.doing(async () => {
      const { who, kind, payload, reason, ends } = this;
      const body = { who, kind, payload, reason, ends, new: this.isNew };
      await got(api.POST('/api/v1/decisions', { body: body as Schemas['NewDecision'] }));
      changed(['decisions', 'people']);
      done(this.follows);
    });
  }
}
