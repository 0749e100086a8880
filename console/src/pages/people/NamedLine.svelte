<script lang="ts">
  import { becomes, type Place } from './naming.svelte';

  /** A place that names somebody: what stands there now, and what will. */
  let { row }: { row: Place } = $props();
</script>

<tr>
  <th scope="row" class="name"
    >{row.place}<span class="soft where">{row.application_name}, {row.thing}</span></th
  >
  <td class="text">{row.text}</td>
  <td class="text">{row.after}</td>
  <td class={{ short: row.how === 'open' }}>{becomes(row)}</td>
  <td class="soft"
    >{row.effect}{#if row.contact}<span class="where">{row.contact} answers for it</span>{/if}</td
  >
</tr>

<style>
  .name {
    color: inherit;
  }
  .where {
    display: block;
    font-weight: normal;
  }
  .text {
    overflow-wrap: anywhere;
  }
</style>
