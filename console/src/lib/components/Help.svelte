<script lang="ts">
  import { keys } from '../keys.svelte';
  import { LISTED, PAGES } from '../pages';
  import Panel from './Panel.svelte';

  const pages = LISTED.map((page) => [`g ${PAGES[page].key}`, PAGES[page].name.toLowerCase()]);
  const others = [
    ['/', 'search for anyone'],
    ['j, k', 'next and previous row'],
    ['Enter', 'open the row'],
    ['s', 'on the day sheet: the next stuck step, to be settled'],
    ['← →', 'walk the events of a lifeline'],
    ['t', 'on a lifeline: the same as a table'],
    ['?', 'these keys'],
    ['Esc', 'close']
  ];
</script>

<Panel open={keys.help} title="Keys" wide onclose={() => (keys.help = false)}>
  <div class="sides">
    {#each [pages, others] as lines, side (side)}
      <table class="list">
        <tbody>
          {#each lines as [key, text] (key)}
            <tr><td class="mono">{key}</td><td>{text}</td></tr>
          {/each}
        </tbody>
      </table>
    {/each}
  </div>
  <div class="buttons">
    <button class="button plain" type="button" onclick={() => (keys.help = false)}>Close</button>
  </div>
</Panel>

<style>
  .sides {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(240px, 1fr));
    gap: 0 32px;
    align-items: start;
  }
</style>
