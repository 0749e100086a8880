<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { duty } from '../../lib/words';

  /** How it stands in each application of somebody who begins. */
  let { lines }: { lines: Schemas['ReadyLine'][] } = $props();
  const more = (line: Schemas['ReadyLine']): string =>
    [
      line.credential,
      line.lacks.includes(line.tried ?? '') ? '' : line.tried,
      line.signed_in ? 'has signed in' : '',
      line.duties?.length ? `to do: ${line.duties.map(duty).join(', ')}` : ''
    ]
      .filter(Boolean)
      .join(', ');
</script>

{#if lines.length}
  <ul>
    {#each lines as line (line.application_id)}
      <li>
        {line.application_name}
        {#if line.state}<StateMark state={line.state} invited={!!line.invited_at} />{:else}<span
            class="soft">not made yet</span
          >{/if}
        {#if more(line)}<span class="soft">{more(line)}</span>{/if}
      </li>
    {/each}
  </ul>
{:else}<span class="soft">No role gives this person anything.</span>{/if}

<style>
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
  }
  @media (min-width: 801px) {
    ul {
      min-width: 340px; /* a line each, as far as there is room */
    }
  }
  li {
    padding: 1px 0;
  }
</style>
