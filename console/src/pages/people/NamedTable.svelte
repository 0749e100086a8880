<script lang="ts">
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { session } from '../../lib/session.svelte';
  import { becomes, Naming } from './naming.svelte';
  import ReplaceKeys from './ReplaceKeys.svelte';
  import ReplacedKeys from './ReplacedKeys.svelte';

  let { who, left }: { who: string; left: boolean } = $props();
  const naming = new Naming(() => who);
  const view = $derived(naming.load.data);
  const keys = $derived(view?.rows.some((r) => r.replaceable && r.how === 'leaving') ?? false);
  const waiting = $derived(view?.rows.some((r) => r.how === 'leaving') ?? false);
</script>

<ProblemNote problem={naming.load.problem} />
{#if view}
  {#if view.rows.length}
    <div class="scroll">
      <table class="list">
        <thead
          ><tr
            ><th scope="col">Place</th><th scope="col">Now</th><th scope="col">Then</th><th
              scope="col">How</th
            ><th scope="col">While nobody stands there</th></tr
          ></thead
        >
        <tbody>
          {#each view.rows as row (`${row.application_id} ${row.key}`)}
            <tr>
              <th scope="row" class="name"
                >{row.place}<span class="soft where">{row.application_name}, {row.thing}</span></th
              >
              <td class="text">{row.text}</td>
              <td class="text">{row.after}</td>
              <td class={{ short: row.how === 'open' }}>{becomes(row)}</td>
              <td class="soft"
                >{row.effect}{#if row.contact}<span class="where">{row.contact} answers for it</span
                  >{/if}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    {#if left && waiting && session.mayAct}
      <button class="button" disabled={naming.load.acting} onclick={() => void naming.redirect()}
        >Put the others there now</button
      >
    {/if}
    {#if !left && keys && session.mayAct}<ReplaceKeys {naming} />{/if}
  {:else}<p>No place names them.</p>{/if}
  {#each naming.dockets as number (number)}
    <p role="status">Their keys are being replaced: <a href="/dockets/{number}">{number}</a></p>
  {/each}
  {#each naming.left as why (why)}<p class="short">Left as it is: {why}</p>{/each}
  {#if view.replaced.length}<ReplacedKeys {naming} keys={view.replaced} />{/if}
  {#each view.keys as key (`${key.application_id} ${key.login}`)}
    <p>
      {plural(key.count, 'key')} of {key.login} in {key.application_name}
      {key.count === 1 ? 'ends' : 'end'} at the latest with the access.
    </p>
  {/each}
  {#if view.silent.length}<p>
      {view.silent.join(', ')} did not answer: what was told last is shown.
    </p>{/if}
  {#if view.unsearched.length}<p class="soft">
      Not searched, for they show no such places: {view.unsearched.join(', ')}.
    </p>{/if}
{:else if !naming.load.problem}<p class="soft">The applications are asked …</p>{/if}

<style>
  .short {
    color: var(--color-error-600-400);
  }
  .name {
    color: inherit;
  }
  .scroll {
    margin-bottom: 0.75rem;
  }
  .where {
    display: block;
    font-weight: normal;
  }
  .text {
    overflow-wrap: anywhere;
  }
</style>
