/** What somebody owns, and what is settled about it. */
import { api, got, type Schemas } from '../../lib/api';
import { ask, type Asked } from '../../lib/query.svelte';

type View = Schemas['HandoverView'];
export type Row = Schemas['OwnedRow'];
export type Home = 'to' | 'copies' | 'goes' | 'keeps';
const EMPTY = {
  home: 'to' as Home,
  to: '',
  share: [] as { who: string }[],
  typed: '',
  until: '',
  matching: '',
  reason: '',
  everywhere: false
};

export class Handing {
  readonly load: Asked<View>;
  /** The row that is being settled, and how. */
  open = $state.raw<Row | null>(null);
  said = $state({ ...EMPTY });

  constructor(private readonly who: () => string) {
    this.load = ask(
      ['people', 'accounts', 'decisions'],
      () => ['handover', this.who()],
      (signal) =>
        got(api.GET('/api/v1/people/{who}/handover', { params: { path: this.path }, signal }))
    );
  }

  private get path(): { who: string } {
    return { who: this.who() };
  }

  begin(row: Row): void {
    this.open = row;
    this.said = { ...EMPTY, share: [], matching: row.matching };
  }

  settle = (): Promise<void> =>
    this.load.after(async () => {
      const { home, to, share, typed, until, matching, reason, everywhere } = this.said;
      const { thing, application_id } = this.open!;
      const body = {
        thing,
        application: everywhere ? '' : application_id,
        matching,
        to: home === 'to' || home === 'copies' ? to : '',
        share: home === 'to' ? share.map((other) => other.who).filter(Boolean) : [],
        copies: home === 'copies',
        goes: home === 'goes',
        keeps: home === 'keeps',
        until: home === 'keeps' ? until : '',
        typed: home === 'goes' ? typed : '',
        reason
      };
      const params = { path: this.path };
      await got(api.PUT('/api/v1/people/{who}/handover', { params, body }));
      this.open = null;
    });

  /** Who is to take something over holds a role, whatever its condition says; whether it was taken. */
  give = async (row: Row, role: string): Promise<boolean> => {
    const { view } = this;
    await this.load.after(() => {
      const body = {
        who: row.to_id!,
        kind: 'role' as const,
        payload: { role },
        reason: `takes over from ${view?.name ?? ''}: ${row.thing}`
      };
      return got(api.POST('/api/v1/decisions', { body: body as Schemas['NewDecision'] }));
    });
    return !this.load.problem;
  };

  /** The first of each application whose taker lacks an account that a role would give. */
  get lacking(): Row[] {
    const rows = this.view?.rows.filter((r) => r.roles.length && r.to_id) ?? [];
    const seen = new Set<string>();
    return rows.filter((r) => {
      const key = `${r.application_id} ${r.to_id}`;
      return !seen.has(key) && seen.add(key);
    });
  }

  private get view(): View | undefined {
    return this.load.data ?? undefined;
  }

  /** What was settled for one kind no longer counts. */
  end = (decision: string): Promise<void> =>
    this.load.after(() => {
      const params = { path: { decision_id: decision } };
      return got(api.DELETE('/api/v1/decisions/{decision_id}', { params }));
    });
}
