/** What another trust of an application means, in words. */
import type { Schemas } from '../../lib/api';
import { plural } from '../../lib/format';

interface Words {
  title: string;
  do: string;
  follows: string[];
}

export function trustWords(row: Schemas['ApplicationRow']): Record<Schemas['Trust'], Words> {
  return {
    watch: {
      title: `Only watch ${row.name}`,
      do: 'Only watch it',
      follows: [
        'Yugum changes nothing there any more: what plans would do is left to its administrators.',
        `That is so of a leaver’s access as well: ${plural(row.active, 'account')} there ${row.active === 1 ? 'is' : 'are'} open, and none is cut off by Yugum.`
      ]
    },
    add: {
      title: `Let Yugum add in ${row.name}`,
      do: 'Let it add',
      follows: [
        'Yugum makes accounts there, gives and changes, from the next plan on.',
        'What takes something away is left to its administrators, also the cut-off of a leaver.'
      ]
    },
    full: {
      title: `Trust ${row.name} to Yugum`,
      do: 'Let it do everything',
      follows: [
        'Yugum gives, changes and takes away there, suspends, closes and deletes accounts, from the next plan on.',
        'What falls due of leavers and of accounts nobody should have is done by itself.'
      ]
    }
  };
}
