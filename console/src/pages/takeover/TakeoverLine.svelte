<script lang="ts">
  import { momentOf, plural } from '../../lib/format';
  import { TAKEOVERS } from '../../lib/handover';
  import type { Question, Takeover } from './takeover.svelte';

  let { it, question }: { it: Takeover; question: Question } = $props();
  const asking = $derived(it.about?.id === question.id ? it.about : null);
  const passes = $derived(asking?.how === 'passed-on');
</script>

<li>
  <p>
    <b>{plural(question.count, question.thing)}</b> in {question.application_name}
    <span class="soft"
      >· {question.answer === 'open'
        ? `to be answered by ${momentOf(question.answer_by, it.data?.zone ?? 'UTC')}`
        : TAKEOVERS[question.answer]}</span
    >
  </p>
  {#if asking}
    <form
      class="form"
      onsubmit={(event) => {
        event.preventDefault();
        void it.send();
      }}
    >
      {#if passes}
        <label class="field"
          ><span>Who takes it over instead (login or mail address)</span><input
            required
            bind:value={it.said.to}
          /></label
        >
      {/if}
      <label class="field"
        ><span>{passes ? 'A note' : 'Why you decline'}</span><input
          maxlength="300"
          required={!passes}
          bind:value={it.said.note}
        /></label
      >
      <div class="buttons">
        <button class="button do" disabled={it.busy}>{passes ? 'Pass it on' : 'Decline it'}</button>
        <button type="button" class="button" onclick={() => (it.about = null)}>Back</button>
      </div>
    </form>
  {:else if question.answer === 'open'}
    <div class="buttons">
      <button class="button do" disabled={it.busy} onclick={() => it.accept([question])}
        >I take it over</button
      >
      <button class="button" onclick={() => it.ask(question.id, 'passed-on')}>Pass it on …</button>
      <button class="button" onclick={() => it.ask(question.id, 'declined')}>Decline …</button>
    </div>
  {/if}
</li>

<style>
  li {
    display: grid;
    gap: 8px;
    padding: 12px 0;
    border-bottom: 1px solid var(--color-surface-300-700);
  }
  .buttons {
    flex-wrap: wrap;
  }
</style>
