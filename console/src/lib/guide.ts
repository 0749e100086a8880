/** Which part of the guide each page is told of in: the guide's page, and the part of it. */
import type { Page } from './pages';
import { href } from './router.svelte';

const PARTS: Partial<Record<Page, [of: string, part?: string]>> = {
  day: ['reports', 'the-day-sheet'],
  calendar: ['standing', 'what-is-owed-and-when'],
  people: ['joiners-and-movers'],
  person: ['how-it-works'],
  accounts: ['leavers', 'accounts-one-by-one-or-many'],
  joiners: ['joiners-and-movers', 'somebody-new'],
  dockets: ['reports', 'dockets-confirmed-together'],
  docket: ['back', 'undo'],
  seats: ['seats'],
  waiting: ['back', 'approvals'],
  applications: ['applications'],
  application: ['applications'],
  groups: ['attributes', 'groups-themselves'],
  handover: ['handover'],
  findings: ['standing', 'findings-that-are-accepted'],
  'last-call': ['back', 'restored-by-hand'],
  reports: ['reports'],
  rules: ['rules'],
  mails: ['back', 'notices'],
  access: ['access']
};

/** The address of what the guide says of a page; of its first page where there is nothing of its own. */
export function guideOf(page: Page): string {
  const [of, part] = PARTS[page] ?? ['getting-started'];
  return href({ page: 'guide', query: { of, ...(part ? { part } : {}) } });
}
