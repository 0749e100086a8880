<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { CHOICES, NUMBERS, type shown } from './profile';

  interface Props {
    row: Schemas['ApplicationRow'];
    fields: ReturnType<typeof shown>;
  }
  /** Windows, limits and seats, each beside what the rules say. */
  let { row, fields }: Props = $props();
  const said = $derived<Record<string, unknown>>(row.ruled);
  const ruled = (name: string) => (name in said ? `the rules say ${String(said[name])}` : '');
</script>

<div class="three">
  {#each NUMBERS as one (one.name)}
    <label class="field"
      ><span>{one.label}</span><input
        class="mono"
        type="number"
        min="0"
        step={one.step ?? 1}
        bind:value={fields[one.name]}
        required
      />{#if ruled(one.name)}<em class="small">{ruled(one.name)}</em>{/if}</label
    >
  {/each}
  {#each CHOICES as one (one.name)}
    <label class="field"
      ><span>{one.label}</span><select bind:value={fields[one.name]}>
        {#each one.words as [word, text] (word)}<option value={word}>{text}</option>{/each}
      </select>{#if ruled(one.name)}<em class="small">{ruled(one.name)}</em>{/if}</label
    >
  {/each}
</div>

<style>
  em {
    color: var(--color-warning-700-300);
    font-style: normal;
  }
</style>
