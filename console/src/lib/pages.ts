/** The pages: what each is called, its key, and its code, which is loaded when it is opened. */
import type { Component } from 'svelte';

type Loaded = Promise<{ default: Component<any> }>; // eslint-disable-line @typescript-eslint/no-explicit-any

export interface Entry {
  /** What the list of pages calls it; pages without stand in no list. */
  name?: string;
  /** The letter that follows g. */
  key?: string;
  /** Shown without a session and without the list of pages. */
  bare?: true;
  load: () => Loaded;
}

/** In the order of the list of pages. */
export const PAGES = {
  day: { name: 'Day sheet', key: 'd', load: () => import('../pages/day/Day.svelte') },
  calendar: {
    name: 'Calendar',
    key: 'c',
    load: () => import('../pages/calendar/Calendar.svelte')
  },
  people: { name: 'People', key: 'p', load: () => import('../pages/people/People.svelte') },
  accounts: {
    name: 'Accounts',
    key: 'u',
    load: () => import('../pages/accounts/Accounts.svelte')
  },
  joiners: { name: 'Joiners', key: 'j', load: () => import('../pages/joiners/Joiners.svelte') },
  dockets: { name: 'Dockets', key: 'k', load: () => import('../pages/dockets/Dockets.svelte') },
  seats: { name: 'Seats', key: 's', load: () => import('../pages/seats/Seats.svelte') },
  waiting: { name: 'Waiting', key: 't', load: () => import('../pages/waiting/Waiting.svelte') },
  applications: {
    name: 'Applications',
    key: 'a',
    load: () => import('../pages/applications/Applications.svelte')
  },
  groups: { name: 'Groups', key: 'g', load: () => import('../pages/groups/Groups.svelte') },
  handover: {
    name: 'Handover',
    key: 'h',
    load: () => import('../pages/handover/Handover.svelte')
  },
  findings: { name: 'Findings', key: 'f', load: () => import('../pages/findings/Findings.svelte') },
  'last-call': {
    name: 'Last call',
    key: 'l',
    load: () => import('../pages/lastcall/LastCall.svelte')
  },
  reports: { name: 'Reports', key: 'e', load: () => import('../pages/reports/Reports.svelte') },
  rules: { name: 'Rules', key: 'r', load: () => import('../pages/rules/Rules.svelte') },
  mails: { name: 'Mail', key: 'm', load: () => import('../pages/mails/Mails.svelte') },
  access: { name: 'Access', key: 'o', load: () => import('../pages/access/Access.svelte') },
  words: { name: 'Words', key: 'w', load: () => import('../pages/words/Words.svelte') },
  guide: { name: 'Guide', key: 'i', load: () => import('../pages/guide/Guide.svelte') },
  application: { load: () => import('../pages/applications/Application.svelte') },
  person: { load: () => import('../pages/people/Person.svelte') },
  docket: { load: () => import('../pages/dockets/Docket.svelte') },
  welcome: { bare: true, load: () => import('../pages/signin/SignIn.svelte') },
  approve: { bare: true, load: () => import('../pages/approve/Approve.svelte') },
  keep: { bare: true, load: () => import('../pages/keep/Keep.svelte') },
  takeover: { bare: true, load: () => import('../pages/takeover/Takeover.svelte') },
  credential: { bare: true, load: () => import('../pages/signin/Credential.svelte') },
  nowhere: { load: () => import('../pages/nowhere/Nowhere.svelte') }
} satisfies Record<string, Entry>;

export type Page = keyof typeof PAGES;
/** Pages with a name: their address is their word, and nothing more is said in it but by people. */
export type Named = {
  [P in Page]: (typeof PAGES)[P] extends { name: string } ? P : never;
}[Page];

export const LISTED = (Object.keys(PAGES) as Page[]).filter((page): page is Named => {
  const entry: Entry = PAGES[page];
  return entry.name !== undefined;
});
