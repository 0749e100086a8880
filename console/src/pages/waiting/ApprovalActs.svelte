<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { session } from '../../lib/session.svelte';
  import { Answering } from './answering.svelte';

  interface Props {
    row: Schemas['ApprovalRow'];
    changed: () => void;
  }
  /** What somebody can say to an approval that is asked for. */
  let { row, changed }: Props = $props();
  const it = new Answering(
    () => row,
    () => changed()
  );
  const standsIn = $derived(session.mayAdminister && row.author !== session.view?.operator.login);
  const WORDS = {
    agree: ['Why for them', 'Agree as administrator'],
    refuse: ['Why not', 'Refuse'],
    ask: ['Login of another operator', 'Ask them as well']
  } as const;
</script>

{#if it.saying}
  {@const [label, button] = WORDS[it.saying]}
  <form
    onsubmit={(event) => {
      event.preventDefault();
      void it.send();
    }}
  >
    <input aria-label={label} placeholder={label} bind:value={it.words} required />
    <button class="button slim" disabled={it.busy}>{button}</button>
    <button class="button slim" type="button" onclick={() => (it.saying = '')}>Back</button>
  </form>
{:else}
  {#if !row.mine}<span class="soft">you were not asked</span>{/if}
  <span class="both">
    {#if row.mine}
      <button class="button slim do" onclick={() => void it.answer(true)} disabled={it.busy}
        >Agree</button
      >
    {:else if standsIn}
      <button class="button slim" onclick={() => it.say('agree')}>Agree for them …</button>
    {/if}
    {#if row.mine || standsIn}
      <button class="button slim" onclick={() => it.say('refuse')}>Refuse …</button>
    {/if}
    {#if row.mine || session.mayAdminister}
      <button class="button slim" onclick={() => it.say('ask')}>Ask another …</button>
    {/if}
  </span>
{/if}
<ProblemNote problem={it.problem} />

<style>
  input {
    font: inherit;
    color: var(--color-surface-contrast-50-950);
    background: var(--color-surface-100-900);
    border: 1px solid var(--color-surface-300-700);
    border-radius: 4px;
    padding: 3px 8px;
  }
  form,
  .both {
    display: flex;
    gap: 6px;
    flex-wrap: wrap;
  }
</style>
