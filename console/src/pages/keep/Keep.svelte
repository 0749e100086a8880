<script lang="ts">
  import { api, got } from '../../lib/api';
  import Mark from '../../lib/components/Mark.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { dateOf } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';

  /** Whoever does not use a seat says whether it is still needed; opened by the link of a mail. */
  const token = location.hash.slice(1);
  history.replaceState(null, '', '/k');
  let keeps = true;
  const asked = new Load(() => got(api.POST('/api/v1/seat-links/open', { body: { token } })));
  const sent = new Load(() =>
    got(api.POST('/api/v1/seat-links/answer', { body: { token, keeps } }))
  );
  void asked.run();
  function answer(yes: boolean): void {
    keeps = yes;
    void sent.run();
  }
  const it = $derived(asked.data);
  const answered = $derived(sent.data ?? (it?.answer ? it : undefined));
</script>

<svelte:head><title>Your seat · Yugum</title></svelte:head>
<main class="by-link">
  <Mark />
  <h1>Do you still need it?</h1>
  <ProblemNote problem={asked.problem ?? sent.problem} />
  {#if it}
    <p>
      <b>{it.license}</b> in {it.application_name}, account <span class="mono">{it.login}</span>
    </p>
    {#if answered}
      <p role="status">
        {answered.answer === 'kept'
          ? `Thank you. You keep it; you are asked again at the earliest on ${dateOf(answered.kept_until ?? '', 'UTC')}.`
          : 'Thank you. It may be given to somebody else.'}
      </p>
    {:else}
      <p class="soft">
        It was not used for long. Without an answer by {dateOf(it.answer_by, 'UTC')} it may be given to
        somebody else.
      </p>
      <div class="buttons">
        <button class="button do" onclick={() => answer(true)} disabled={sent.busy}
          >I still need it</button
        >
        <button class="button" onclick={() => answer(false)} disabled={sent.busy}
          >I do not need it</button
        >
      </div>
    {/if}
  {/if}
</main>
