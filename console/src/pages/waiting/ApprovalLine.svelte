<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { VERBS } from '../../lib/words';
  import Moment from '../../lib/components/Moment.svelte';
  import ApprovalActs from './ApprovalActs.svelte';

  interface Props {
    row: Schemas['ApprovalRow'];
    changed: () => void;
  }
  let { row, changed }: Props = $props();
  const zone = $derived(session.zone);
</script>

<tr>
  <td class="name"
    >{VERBS[row.verb] ?? row.verb}
    {row.subject_name}
    <span class="soft">{row.reason || row.summary[0]}</span></td
  >
  <td>
    {row.name}: {row.asked.map((a) => (a.why ? `${a.name} (${a.why})` : a.name)).join(', ')}
    {#if row.everyone}<span class="soft">all of them</span>{/if}
  </td>
  <td class="soft"><Moment at={row.made_at} {zone} /></td>
  <td><Moment at={row.expires_at} {zone} /></td>
  <td
    ><a href={href({ page: 'docket', name: row.number })}>{row.number}</a>
    <span class="soft">by {row.author}</span></td
  >
  <td>
    <ApprovalActs {row} {changed} />
  </td>
</tr>
