<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { capital, dateOf } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';
  import type { Wish } from '../../lib/plan.svelte';
  import { session } from '../../lib/session.svelte';
  import { MEASURES } from '../../lib/words';

  interface Props {
    view: Schemas['PersonView'];
    onwish: (wish: Wish) => void;
    onended: () => void;
  }
  let { view, onwish, onended }: Props = $props();
  const rows = $derived(
    view.decisions.filter(
      (d) => d.payload.measure && (!d.ends_at || Date.parse(d.ends_at) > Date.parse(view.now))
    )
  );
  const day = (text: string) => dateOf(`${text}T12:00:00Z`, 'UTC');
  let ending = '';
  const end = new Load(async () => {
    const params = { path: { decision_id: ending } };
    await got(api.DELETE('/api/v1/decisions/{decision_id}', { params }));
    onended();
    return true;
  });
</script>

{#each rows as row (row.id)}
  <section class="sheet warn" aria-label="Precaution">
    <div>
      <b>{capital(MEASURES[row.payload.measure ?? ''] ?? '')} as a precaution</b>
      by {row.author}, {dateOf(row.made_at, session.zone)}: {row.reason}. To be looked at again on
      <b>{day(row.payload.review ?? '')}</b>.
    </div>
    {#if session.mayAct}
      <div class="buttons">
        {#if row.payload.measure === 'suspend' && row.docket_id}
          <button class="button" onclick={() => onwish({ verb: 'undo', docket: row.docket_id! })}
            >Lift it …</button
          >
        {:else}
          <button
            class="button"
            disabled={end.busy}
            onclick={() => {
              ending = row.id;
              void end.run();
            }}>End it</button
          >
        {/if}
        <button
          class="button cut"
          onclick={() => onwish({ verb: 'leaver', who: [view.id], urgent: true })}
          >Turn into a leaver …</button
        >
      </div>
    {/if}
  </section>
{/each}
<ProblemNote problem={end.problem} />

<style>
  section {
    display: flex;
    flex-wrap: wrap;
    justify-content: space-between;
    align-items: center;
    gap: 12px;
    margin-bottom: 14px;
  }
  .buttons {
    display: flex;
    gap: 8px;
  }
</style>
