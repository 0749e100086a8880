/** A new credential for one account: made, typed, or the link to it sent to another address. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';
import { checks } from '../../lib/passwords';

export type Way = 'made' | 'typed' | 'sent';

export class Credential extends Acts {
  way = $state<Way>('made');
  password = $state('');
  reason = $state('');
  check = $state('');
  to = $state('');
  rules = $state.raw<Schemas['CredentialRules'] | null>(null);
  mail = $state.raw<Schemas['CredentialMail'] | null>(null);
  docket = $state('');
  sent = $state('');

  constructor(private readonly account: string) {
    super();
    void this.doing(async () => {
      this.rules = await got(
        api.GET('/api/v1/accounts/{account_id}/credential', { params: this.params })
      );
    });
  }

  private get params() {
    return { path: { account_id: this.account } };
  }

  get good(): boolean {
    if (this.way === 'made') return true;
    if (this.way === 'sent') return this.to.includes('@') && this.check.length > 2;
    return !!this.rules && checks(this.rules, this.password).every((c) => c.good);
  }

  set = () =>
    this.doing(async () => {
      const path = '/api/v1/accounts/{account_id}/credential' as const;
      const { params, reason, password } = this;
      const made = await got(
        this.way === 'typed'
          ? api.PUT(path, { params, body: { password, reason } })
          : api.POST(path, { params, body: { reason } })
      );
      this.password = '';
      this.docket = made.docket;
    });

  /** The mail as it would go; the second time it goes. */
  send = (look: boolean) =>
    this.doing(async () => {
      const body = { check: this.check, to: this.to, look };
      const path = '/api/v1/accounts/{account_id}/hand-over' as const;
      const made = await got(api.POST(path, { params: this.params, body }));
      this.mail = look ? (made.mail ?? null) : null;
      if (!look) this.sent = this.to;
    });
}
