<script lang="ts">
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { session } from '../../lib/session.svelte';
  import NamedLine from './NamedLine.svelte';
  import { Naming } from './naming.svelte';
  import NamedRest from './NamedRest.svelte';
  import ReplaceKeys from './ReplaceKeys.svelte';
  import ReplacedKeys from './ReplacedKeys.svelte';

  let { who, left }: { who: string; left: boolean } = $props();
  const naming = new Naming(() => who);
  const view = $derived(naming.load.data);
  const keys = $derived(view?.rows.some((r) => r.replaceable && r.how === 'leaving') ?? false);
  const waiting = $derived(view?.rows.some((r) => r.how === 'leaving') ?? false);
</script>

<ProblemNote problem={naming.load.problem} />
{#if view}
  {#if view.rows.length}
    <div class="scroll">
      <table class="list">
        <thead
          ><tr
            ><th scope="col">Place</th><th scope="col">Now</th><th scope="col">Then</th><th
              scope="col">How</th
            ><th scope="col">While nobody stands there</th></tr
          ></thead
        >
        <tbody>
          {#each view.rows as row (`${row.application_id} ${row.key}`)}
            <NamedLine {row} />
          {/each}
        </tbody>
      </table>
    </div>
    {#if left && waiting && session.mayAct}
      <button class="button" disabled={naming.load.acting} onclick={() => void naming.redirect()}
        >Put the others there now</button
      >
    {/if}
    {#if !left && keys && session.mayAct}<ReplaceKeys {naming} />{/if}
  {:else}<p>No place names them.</p>{/if}
  {#each naming.dockets as number (number)}
    <p role="status">Their keys are being replaced: <a href="/dockets/{number}">{number}</a></p>
  {/each}
  {#each naming.left as why (why)}<p class="short">Left as it is: {why}</p>{/each}
  {#if view.replaced.length}<ReplacedKeys {naming} keys={view.replaced} />{/if}
  <NamedRest {view} />
{:else if !naming.load.problem}<p class="soft">The applications are asked …</p>{/if}

<style>
  .scroll {
    margin-bottom: 0.75rem;
  }
</style>
