<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import StandingTable from '../../lib/components/StandingTable.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { session } from '../../lib/session.svelte';

  let { view, onwish }: { view: Schemas['PersonView']; onwish: (wish: Wish) => void } = $props();
  const open = $derived(view.standing.some((row) => row.status === 'finding'));
</script>

{#if view.standing.length}
  <h2>Not as it should be</h2>
  <StandingTable rows={view.standing} />
  {#if open && session.mayAct}
    <p>
      <button class="button" onclick={() => onwish({ verb: 'recheck', who: [view.id] })}
        >Recheck …</button
      >
    </p>
  {/if}
{/if}
