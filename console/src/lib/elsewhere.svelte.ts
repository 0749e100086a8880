/** What became of one's own dockets while another page was open. */
import { api, got, type Schemas } from './api';
import { capital } from './format';
import { ask } from './query.svelte';
import { href, router } from './router.svelte';
import { session } from './session.svelte';

type Row = Schemas['DocketRow'];
/** So many of one's own dockets are watched, the latest; so many are told one by one. */
const LATEST = 20;
const FEW = 3;
const ENDED: Row['state'][] = ['done', 'cancelled', 'superseded'];

/** What happened to a docket since it was last seen; '' if it is as it was, or is seen for the first time. */
export function news(before: Row | undefined, now: Row): string {
  if (!before || ENDED.includes(before.state)) return '';
  if (ENDED.includes(now.state)) return now.outcome;
  if (now.steps_stuck > before.steps_stuck) return 'stuck';
  return '';
}

export interface News {
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
    const found: News[] = [];
    for (const row of asked.data?.items ?? []) {
      const text = news(seen.get(row.id), row);
      seen.set(row.id, row);
      if (text && !isShown(row)) {
        const title = `${row.number}: ${capital(row.title)} ${row.subject_name}`;
        found.push({ title, text, to: href({ page: 'docket', name: row.number }) });
      }
    }
    if (!found.length) return;
    elsewhere.news.push(...(found.length > FEW ? [together(found)] : found));
    elsewhere.begun = true;
  });
}

/** Many at once in one note. */
export function together(found: News[]): News {
  const stuck = found.filter(({ text }) => text === 'stuck').length;
  const author = session.view?.operator.login ?? '';
  return {
    title: `${found.length} of your dockets`,
    text: stuck ? `${found.length - stuck} ended, ${stuck} stuck` : 'ended',
    to: href({ page: 'dockets', query: { author } })
  };
}

/** Whether its own page, or that of whom it is about, is open. */
function isShown(row: Row): boolean {
  const view = router.view;
  if (view.page === 'docket') return view.name === row.number;
  return (
    view.page === 'person' &&
    [row.subject_id, row.subject_login.toLowerCase()].includes(view.who.toLowerCase())
  );
}
