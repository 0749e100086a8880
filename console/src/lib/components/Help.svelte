<script lang="ts">
  import { keys, PAGES } from '../keys.svelte';
  import Panel from './Panel.svelte';

  const lines: [string, string][] = [
    ['/', 'search for anyone'],
    ...Object.entries(PAGES).map(([key, { name }]): [string, string] => [`g ${key}`, name]),
    ['j, k', 'next and previous row'],
    ['Enter', 'open the row'],
    ['← →', 'walk the events of a lifeline'],
    ['t', 'on a lifeline: the same as a table'],
    ['Esc', 'close']
  ];
</script>

<Panel open={keys.help} title="Keys" onclose={() => (keys.help = false)}>
  <table class="list">
    <tbody>
      {#each lines as [key, text] (key)}
        <tr><td class="mono">{key}</td><td>{text}</td></tr>
      {/each}
    </tbody>
  </table>
</Panel>
