<script lang="ts">
  import Later from '../../lib/components/Later.svelte';
  import PickBar from '../../lib/components/PickBar.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import AcceptForm from './AcceptForm.svelte';
  import type { Acts } from './acts.svelte';

  /** What can be done with what is picked; `accepted` says that the list is of accepted findings. */
  let { acts, accepted }: { acts: Acts; accepted: boolean } = $props();
  const { list } = $derived(acts);
</script>

<ProblemNote problem={acts.problem} />
<PickBar {list} words={(count) => plural(count, 'finding')} none="Pick none">
  {#if accepted}
    <button class="button do" disabled={acts.busy} onclick={() => void acts.reopen()}
      >Tell them again</button
    >
  {:else if acts.linking && acts.linked.length}
    <Later load={() => import('./WhoseForm.svelte')} {acts} />
  {:else if acts.saying}
    <AcceptForm {acts} />
  {:else}
    <button class="button" onclick={() => (acts.saying = true)}>Accept …</button>
    {#if acts.linked.length}
      <button class="button" onclick={() => (acts.linking = true)}>Whose it is …</button>
    {/if}
    {#if acts.people.length}
      <button class="button" onclick={() => void acts.plan('recheck')}
        >Recheck {plural(acts.people.length, 'person', 'people')} …</button
      >
    {/if}
    {#if acts.accounts.length}
      <button class="button" onclick={() => void acts.plan('suspend')}
        >Cut off {plural(acts.accounts.length, 'account')} …</button
      >
      <button class="button" onclick={() => void acts.plan('delete')}
        >Delete {plural(acts.accounts.length, 'account')} …</button
      >
    {/if}
  {/if}
</PickBar>
{#each acts.refused as one (one.kind + one.key)}
  <p role="status" class="short">Not accepted ({one.kind}): it {one.problem}.</p>
{/each}
{#if acts.wish}
  <Later
    load={() => import('../../lib/components/PlanPanel.svelte')}
    wish={acts.wish}
    who={acts.wish.who
      ? plural(acts.wish.who.length, 'person', 'people')
      : plural(acts.wish.accounts?.length ?? 0, 'account')}
    onclose={() => (acts.wish = null)}
  />
{/if}
