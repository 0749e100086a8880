<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { plural } from '../../lib/format';
  import type { PeopleFile } from './file.svelte';

  interface Props {
    file: PeopleFile;
    view: Schemas['PeopleFileView'];
  }
  /** The rows that are not taken, with what is wrong; they come back as a file. */
  let { file, view }: Props = $props();
</script>

<h3>{plural(view.faulty, 'row')} to correct</h3>
<p class="give">
  <a class="button" href="/api/v1/people-files/{view.id}/rejected" download="rejected-{view.name}"
    >Download them as a file</a
  >
  <span class="soft"
    >in the file’s own form, with what is wrong: correct it there and check that file.</span
  >
</p>
<table class="list">
  <thead><tr><th class="num">Line</th><th>Who</th><th>What is wrong, and what to do</th></tr></thead
  >
  <tbody>
    {#each file.faulty as row (row.line)}
      <tr>
        <td class="num mono" data-label="Line">{row.line}</td>
        <td class="who" data-label="Who">{row.name || row.login || '–'}</td>
        <td data-label="What is wrong">
          {#each row.faults as fault (fault.place + fault.text)}
            <div>
              {fault.text}
              {#if fault.value && !view.taken}
                <button
                  class="button small"
                  disabled={file.busy}
                  onclick={() => void file.accept(fault.place, fault.value)}>It is right</button
                >
              {:else}<span class="soft">{fault.remedy}</span>{/if}
            </div>
          {/each}
        </td>
      </tr>
    {/each}
  </tbody>
</table>
{#if view.faulty > file.faulty.length}
  <p class="small">… and {view.faulty - file.faulty.length} more, all of them in the file.</p>
{/if}

<style>
  h3 {
    margin: 16px 0 8px;
    font-weight: 700;
  }
  .who {
    white-space: nowrap;
  }
  .give {
    display: flex;
    flex-wrap: wrap;
    gap: 10px;
    align-items: center;
    margin-bottom: 12px;
  }
</style>
