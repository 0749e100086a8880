<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import { plural } from '../../lib/format';
  import type { Wish } from '../../lib/plan.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  interface Props {
    row: Schemas['GroupRow'];
    onclose: () => void;
    onwish: (name: string, wish: Wish) => void;
    onchange: () => void;
  }
  /** One group, and what can be done with it. */
  let { row, onclose, onwish, onchange }: Props = $props();
  const retired = $derived(row.state === 'deleted');
  const quick = (action: Schemas['Quick']) =>
    onwish(row.name, { verb: 'account', action, accounts: [row.id] });
</script>

<Panel open title="{row.name} in {row.application_name}" {onclose}>
  {#if row.description}<p>{row.description}</p>{/if}
  <p>
    {#if row.owner_id}
      Its owner is <a class="within" href={href({ page: 'person', who: row.owner_id })}
        >{row.owner_name}</a
      >{#if row.owner_left}, who <b class="short">has left</b>{/if}.
    {:else}<b class="short">Nobody owns it.</b>{/if}
    {plural(row.members, 'open account')}
    {row.members === 1 ? 'is' : 'are'} in it.
  </p>
  {#if row.address}
    <p class="soft">
      Written to as {row.address}; outside senders: {row.outside_senders || 'not said'}.
    </p>
  {/if}
  <p class="acts">
    {#if session.mayAct && retired}
      <button class="button do" onclick={() => quick('restore')}>Bring back …</button>
    {:else if session.mayAct}
      <button class="button do" onclick={onchange}>Change …</button>
      <button class="button" onclick={() => quick('delete')}>Retire …</button>
    {/if}
    <button class="button plain" onclick={onclose}>Close</button>
  </p>
</Panel>
