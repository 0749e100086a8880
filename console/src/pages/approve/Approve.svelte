<script lang="ts">
  import { api, got } from '../../lib/api';
  import Mark from '../../lib/components/Mark.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { exactly } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';
  import { VERBS } from '../../lib/words';

  const token = location.hash.slice(1);
  history.replaceState(null, '', '/a');
  let note = $state('');
  let agrees = true;
  const asked = new Load(() =>
    got(api.POST('/api/v1/approval-links/open', { body: { token, agrees: true, note: '' } }))
  );
  const sent = new Load(() =>
    got(api.POST('/api/v1/approval-links/answer', { body: { token, agrees, note } }))
  );
  void asked.run();
  function answer(yes: boolean): void {
    agrees = yes;
    void sent.run();
  }
  const it = $derived(asked.data);
</script>

<svelte:head><title>Your approval · Yugum</title></svelte:head>
<main class="by-link">
  <Mark />
  <h1>Your approval</h1>
  <ProblemNote problem={asked.problem ?? sent.problem} />
  {#if sent.data}
    <p role="status">Thank you. This approval is {sent.data.state}.</p>
  {:else if it}
    <p>
      {it.author} wants to carry out: <b>{VERBS[it.verb] ?? it.verb} {it.subject_name}</b>.
      {it.reason}
    </p>
    <ul>
      {#each it.summary as line (line)}<li>{line}</li>{/each}
    </ul>
    <p class="soft">
      Due {exactly(it.due_at, 'UTC')}; it waits until {exactly(it.expires_at, 'UTC')}.
    </p>
    {#if it.state === 'open'}
      <label class="field"><span>A note (needed to refuse)</span><input bind:value={note} /></label>
      <div class="buttons">
        <button class="button do" onclick={() => answer(true)} disabled={sent.busy}>Agree</button>
        <button class="button" onclick={() => answer(false)} disabled={sent.busy || !note}
          >Refuse</button
        >
      </div>
    {:else}
      <p role="status">This approval is {it.state} already.</p>
    {/if}
  {/if}
</main>

<style>
  ul {
    list-style: disc;
    padding-left: 18px;
  }
</style>
