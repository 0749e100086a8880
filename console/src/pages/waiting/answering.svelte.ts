/** How somebody answers what was asked: agrees, refuses, or asks another operator as well. */
import { api, got, type Schemas } from '../../lib/api';
import { Acts } from '../../lib/load.svelte';

type Row = Schemas['ApprovalRow'];

export class Answering extends Acts {
  /** What is being said, with its words. */
  saying = $state<'' | 'agree' | 'refuse' | 'ask'>('');
  words = $state('');

  constructor(
    private readonly row: () => Row,
    private readonly changed: () => void
  ) {
    super();
  }

  say(what: 'agree' | 'refuse' | 'ask'): void {
    this.saying = what;
    this.words = '';
  }

  private act(call: () => Promise<unknown>): Promise<void> {
    return this.doing(async () => {
      await call();
      this.saying = '';
      this.changed();
    });
  }

  answer(agrees: boolean): Promise<void> {
    const params = { path: { approval_id: this.row().id } };
    const body = { agrees, note: this.words };
    return this.act(() =>
      got(api.POST('/api/v1/approvals/{approval_id}/answer', { params, body }))
    );
  }

  delegate(): Promise<void> {
    const params = { path: { approval_id: this.row().id } };
    const body = { to: this.words };
    return this.act(() =>
      got(api.POST('/api/v1/approvals/{approval_id}/delegate', { params, body }))
    );
  }

  send(): Promise<void> {
    return this.saying === 'ask' ? this.delegate() : this.answer(this.saying === 'agree');
  }
}
