/** What became of one's own dockets while another page was open. */
import { api, got, type Schemas } from './api';
import { capital } from './format';
import { ask } from './query.svelte';
import { href, router } from './router.svelte';
import { session } from './session.svelte';

type Row = Schemas['DocketRow'];
const LATEST = 20;
const ENDED: Row['state'][] = ['done', 'cancelled', 'superseded'];

/** What happened to a docket since it was last seen; '' if it is as it was, or is seen for the first time. */
export function news(before: Row | undefined, now: Row): string {
  if (!before || ENDED.includes(before.state)) return '';
  if (ENDED.includes(now.state)) return now.outcome;
  if (now.steps_stuck > before.steps_stuck) return 'stuck';
  return '';
}

export interface News {
  id: string;
  title: string;
  text: string;
  to: string;
}

/** What is to be told; what tells it is loaded with the first of it. */
export const elsewhere = $state({ news: [] as News[], begun: false });

/** Look out for it from now on. A tab nobody looks at asks once somebody does: there may be many of them. */
export function lookOut(): void {
  const seen = new Map<string, Row>();
  let kept: Schemas['Page_DocketRow_'] | null = null;
  const asked = ask(
    ['dockets'],
    () => ['dockets of one’s own', session.view?.operator.login],
    async (signal) => {
      if (document.hidden && kept) return kept;
      const query = { author: session.view?.operator.login ?? '', limit: LATEST };
      return (kept = await got(api.GET('/api/v1/dockets', { params: { query }, signal })));
    }
  );
  $effect(() => {
    const look = (): void => void (document.hidden || asked.run());
    document.addEventListener('visibilitychange', look);
    return () => document.removeEventListener('visibilitychange', look);
  });
  $effect(() => {
    for (const row of asked.data?.items ?? []) {
      const text = news(seen.get(row.id), row);
      seen.set(row.id, row);
      if (text && !isShown(row)) {
        const title = `${row.number}: ${capital(row.title)} ${row.subject_name}`;
        const to = href({ page: 'docket', name: row.number });
        elsewhere.news.push({ id: row.id, title, text, to });
        elsewhere.begun = true;
      }
    }
  });
}

/** Whether its own page, or that of whom it is about, is open. */
function isShown(row: Row): boolean {
  const view = router.view;
  if (view.page === 'docket') return view.name === row.number;
  return (
    view.page === 'person' && [row.subject_id, row.subject_login].includes(view.who.toLowerCase())
  );
}
