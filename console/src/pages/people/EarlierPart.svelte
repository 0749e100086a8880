<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import PickMoment from '../../lib/components/pick/PickMoment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { exactly, worded } from '../../lib/format';
  import { Load } from '../../lib/load.svelte';
  import { session } from '../../lib/session.svelte';
  import { fieldName } from '../../lib/words';

  /** Somebody as they were at a moment of the past. */
  let { view }: { view: Schemas['PersonView'] } = $props();
  let said = $state('');
  const load = new Load(async () => {
    const query = { said, who: view.id };
    const { at } = await got(api.GET('/api/v1/clock/moment', { params: { query } }));
    const params = { path: { who: view.id }, query: { at } };
    return got(api.GET('/api/v1/people/{who}/then', { params }));
  });
  const then = $derived(load.data);
</script>

<h2>As they were</h2>
<form
  class="form-row"
  aria-label="As they were"
  onsubmit={(event) => {
    event.preventDefault();
    void load.run();
  }}
>
  <PickMoment label="At" required who={view.id} bind:value={said} />
  <button class="button" disabled={load.busy}>Show</button>
</form>
<ProblemNote problem={load.problem} />
{#if then && !load.problem}
  <p>
    {exactly(then.at, session.zone)}, as far as it is known today:
    {#each Object.entries(then.fields) as [name, value] (name)}
      <span class="fact"
        ><span class="soft">{fieldName(name)}</span> {worded(value, view.time_zone)}</span
      >
    {/each}
  </p>
  {#if then.accounts.length}
    <table class="list" aria-label="Accounts then">
      <thead
        ><tr
          ><th scope="col">Application</th><th scope="col">Login</th><th scope="col">State</th><th
            scope="col">Held</th
          ></tr
        ></thead
      >
      <tbody>
        {#each then.accounts as one, n (n)}
          <tr>
            <td class="name">{one.application_name}</td>
            <td class="mono" data-label="Login">{one.login}</td>
            <td data-label="State"><StateMark state={one.state} /></td>
            <td data-label="Held">{[...one.entitlements, ...one.seats].join(', ') || 'nothing'}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  {:else}<p class="soft">No account of theirs was known then.</p>{/if}
{/if}

<style>
  .fact {
    display: inline-block;
    margin-right: 18px;
  }
</style>
