<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { plural } from '../../lib/format';

  let { lines }: { lines: Schemas['GivenLine'][] } = $props();
  const applications = $derived([...new Set(lines.map((l) => l.application_name))]);
</script>

<section aria-label="What the rules give">
  <div>
    <b
      >{lines.length
        ? `Would get ${plural(lines.length, 'thing')} in ${plural(applications.length, 'application')}`
        : 'No role applies yet'}</b
    >
  </div>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <div class="scroll gets" role="region" aria-label="Would get" tabindex="0">
    <table class="list">
      <tbody>
        {#each lines as line (line.application_id + line.kind + line.item)}
          <tr>
            <td class="name">{line.application_name}</td>
            <td>{line.kind} {line.item}</td>
            <td>{line.because}</td>
            <td>{line.note}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
</section>

<style>
  .gets {
    max-height: 26vh;
    overflow-y: auto;
  }
</style>
