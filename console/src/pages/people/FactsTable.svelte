<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Moment from '../../lib/components/Moment.svelte';
  import { momentOf, worded } from '../../lib/format';
  import { session } from '../../lib/session.svelte';
  import { fieldName } from '../../lib/words';

  /** What changed about somebody, from when, and when that was known. */
  let { facts }: { facts: Schemas['FactLine'][] } = $props();
  const zone = $derived(session.zone);
  const changes = (fact: Schemas['FactLine']): string =>
    Object.keys({ ...fact.before, ...fact.after })
      .map((name) => {
        const [before, after] = [fact.before[name], fact.after[name]].map((value) =>
          worded(value ?? '', zone)
        );
        return `${fieldName(name)}: ${before ? `${before} → ` : ''}${after || 'nothing'}`;
      })
      .join('; ');
</script>

<h2>What changed about them</h2>
{#if facts.length}
  <div class="scroll">
    <table class="list">
      <thead
        ><tr
          ><th scope="col">From</th><th scope="col">What</th><th scope="col">Known</th><th
            scope="col">By</th
          ><th scope="col">Why</th></tr
        ></thead
      >
      <tbody>
        {#each facts as fact, n (n)}
          <tr>
            <td class="name"><Moment at={fact.effective_at} {zone} /></td>
            <td>{changes(fact)}</td>
            <td class="soft"
              >{fact.known_at > fact.effective_at
                ? `late, ${momentOf(fact.known_at, zone)}`
                : momentOf(fact.known_at, zone)}</td
            >
            <td class="soft">{fact.author}</td>
            <td>{fact.reason}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{:else}<p class="soft">Nothing since they were entered.</p>{/if}
