<script lang="ts">
  import Mark from '../../lib/components/Mark.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { exactly } from '../../lib/format';
  import TakeoverLine from './TakeoverLine.svelte';
  import { Takeover } from './takeover.svelte';

  /** Whoever is to take something over says whether they do; opened by the link of a mail. */
  const token = location.hash.slice(1);
  history.replaceState(null, '', '/t');
  const it = new Takeover(token);
</script>

<svelte:head><title>What you take over · Yugum</title></svelte:head>
<main class="by-link">
  <Mark />
  <h1>Do you take it over?</h1>
  <ProblemNote problem={it.problem} />
  {#if it.data}
    <p>
      {it.data.heir_name}, you are to take over what <b>{it.data.name}</b>
      owns{#if it.data.leaves_at}, whose access ends {exactly(
          it.data.leaves_at,
          it.data.zone
        )}{/if}. Nothing is yours before you have agreed.
    </p>
    <ul>
      {#each it.data.questions as question (question.id)}
        <TakeoverLine {it} {question} />
      {/each}
    </ul>
    {#if it.open.length}
      {#if it.open.length > 1}
        <div class="buttons">
          <button class="button do" disabled={it.busy} onclick={() => it.accept(it.open)}
            >I take all of it over</button
          >
        </div>
      {/if}
      <p class="soft">You have until {exactly(it.data.answer_by, it.data.zone)} to answer.</p>
    {:else}
      <p role="status">Thank you: everything is answered.</p>
    {/if}
  {/if}
</main>

<style>
  ul {
    border-top: 1px solid var(--color-surface-300-700);
  }
</style>
