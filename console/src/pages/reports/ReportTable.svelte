<script lang="ts">
  import type { Told } from './kinds';

  let { head, rows, counted }: { head: string[]; rows: Told[]; counted: string[] } = $props();
  const num = $derived(head.map((word) => counted.includes(word)));
</script>

<div class="scroll">
  <table class="list">
    <thead
      ><tr
        >{#each head as word (word)}<th scope="col" class={{ num: counted.includes(word) }}
            >{word}</th
          >{/each}</tr
      ></thead
    >
    <tbody>
      {#each rows as row, n (n)}
        <tr
          >{#each row as cell, k (k)}<td class={{ num: num[k], name: !k, brief: cell.length < 22 }}
              >{cell}</td
            >{/each}</tr
        >
      {/each}
    </tbody>
  </table>
</div>

<style>
  .brief {
    white-space: nowrap;
  }
</style>
