<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Confirm from '../../lib/components/Confirm.svelte';
  import { momentOf } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  interface Props {
    hold: Schemas['HoldRow'];
    busy: boolean;
    onend: () => void;
  }
  /** Whom or what nothing is deleted of, until when and why. */
  let { hold, busy, onend }: Props = $props();
</script>

<tr>
  <td class="name">
    {#if hold.person_id}<a href={href({ page: 'person', who: hold.person_id })}>{hold.name}</a
      >{:else}{hold.name} <span class="tag">application</span>{/if}
  </td>
  <td>{hold.reason}</td>
  <td>{hold.author}</td>
  <td
    >{#if hold.ends_at}{momentOf(hold.ends_at, session.zone)}{:else}<span class="soft"
        >until it is ended</span
      >{/if}</td
  >
  {#if session.mayAct}
    <td
      ><Confirm
        text="End …"
        label="End the hold on {hold.name} …"
        sure="End it now"
        {busy}
        ondo={onend}
      /></td
    >
  {/if}
</tr>
