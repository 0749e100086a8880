<script lang="ts">
  import Mark from '../../lib/components/Mark.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { momentOf } from '../../lib/format';
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
      {it.data.heir_name}, you are to take over what others own who leave or have left. Nothing is
      yours before you have agreed.
    </p>
    {#if it.open.length > 1}
      <div class="buttons">
        <button class="button do" disabled={it.busy} onclick={() => it.accept(it.open)}
          >I take all of it over</button
        >
      </div>
    {:else if !it.open.length}
      <p role="status">Thank you: everything is answered.</p>
    {/if}
    {#each it.people as person (person.id)}
      <section>
        <h2>{person.name}</h2>
        {#if person.leaves}<p class="soft">
            Access ends {momentOf(person.leaves, it.data.zone)}
          </p>{/if}
        <ul>
          {#each person.questions as question (question.id)}
            <TakeoverLine {it} {question} />
          {/each}
        </ul>
      </section>
    {/each}
  {/if}
</main>

<style>
  main {
    margin-top: 6vh;
    padding-bottom: 6vh;
  }
  ul {
    margin-top: 8px;
    border-top: 1px solid var(--color-surface-300-700);
  }
</style>
