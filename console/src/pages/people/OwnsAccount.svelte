<script lang="ts">
  import Later from '../../lib/components/Later.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import type { Handing, Row } from './handing.svelte';

  /** Whoever is to take something over lacks an account there: a role that gives one, by hand, and the plan of what it brings. */
  let { handing, row }: { handing: Handing; row: Row } = $props();
  // svelte-ignore state_referenced_locally
  let role = $state(row.roles[0] ?? '');
  let wish: Wish | null = $state.raw(null);

  async function give(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (await handing.give(row, role)) {
      wish = { verb: 'recheck', who: [row.to_id!] };
    }
  }
</script>

<form
  class="form-row"
  aria-label="Give {row.to_name} an account in {row.application_name}"
  onsubmit={give}
>
  <label class="field"
    ><span>A role that gives {row.to_name} an account in {row.application_name}</span>
    <select bind:value={role}>
      {#each row.roles as name (name)}<option>{name}</option>{/each}
    </select></label
  >
  <button class="button" disabled={handing.load.acting}>Give it and plan …</button>
</form>
{#if wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    {wish}
    who={row.to_name}
    onclose={() => {
      wish = null;
      void handing.load.run();
    }}
  />
{/if}
