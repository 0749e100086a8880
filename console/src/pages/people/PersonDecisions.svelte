<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { Load } from '../../lib/load.svelte';
  import { applications, changed } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import { DECISIONS } from '../../lib/words';

  /** What somebody decided about a person, with its reason and end; what goes on can be ended. */
  let { view }: { view: Schemas['PersonView'] } = $props();
  const known = applications();
  const names = $derived(new Map(known.data?.map((one) => [one.id, one.name])));
  const zone = $derived(session.zone);
  const over = (row: Schemas['DecisionLine']): boolean => !!row.ends_at && row.ends_at <= view.now;

  function about({ payload }: Schemas['DecisionLine']): string {
    const where = payload.application
      ? (names.get(payload.application) ?? payload.application)
      : '';
    const what = [payload.kind, payload.item, payload.value].filter(Boolean).join(' ');
    const who = payload.role || payload.names?.join(', ') || payload.person || '';
    return [what || who, where && `in ${where}`, payload.matching && `“${payload.matching}”`]
      .filter(Boolean)
      .join(' ');
  }
  let ending = '';
  const ended = new Load(async () => {
    const params = { path: { decision_id: ending } };
    await got(api.DELETE('/api/v1/decisions/{decision_id}', { params }));
    changed(['decisions', 'people']);
    return true;
  });
  function end(id: string): void {
    ending = id;
    void ended.run();
  }
</script>

<h2>What was decided</h2>
<ProblemNote problem={ended.problem} />
{#if view.decisions.length}
  <div class="scroll">
    <table class="list">
      <thead
        ><tr
          ><th scope="col">Made</th><th scope="col">What</th><th scope="col">About</th><th
            scope="col">Why</th
          ><th scope="col">By</th><th scope="col">Until</th></tr
        ></thead
      >
      <tbody>
        {#each view.decisions as row (row.id)}
          <tr class:soft={over(row)}>
            <td class="name"><Moment at={row.made_at} {zone} /></td>
            <td>{DECISIONS[row.kind] ?? row.kind}</td>
            <td>{about(row)}</td>
            <td>{row.reason}</td>
            <td class="soft">{row.author}</td>
            <td>
              {#if row.ends_at}<Moment at={row.ends_at} {zone} />{over(row) ? ', over' : ''}
              {:else}it is ended{/if}
              {#if session.mayAct && !over(row) && !row.payload.measure}
                <button
                  class="button slim"
                  disabled={ended.busy}
                  aria-label="End it: {DECISIONS[row.kind] ?? row.kind} {about(row)}"
                  onclick={() => end(row.id)}>End it</button
                >
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{:else}<p class="soft">Nothing: rules alone say what they have.</p>{/if}
