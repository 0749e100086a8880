<script lang="ts">
  import { GLOSSARY } from '../../lib/words';
</script>

<svelte:head><title>Words · Yugum</title></svelte:head>
<h1>Words</h1>
<p class="soft">
  One meaning each, the same in the console, the command line, the API and the docs.
</p>
<table class="list">
  <tbody>
    {#each GLOSSARY as [word, meaning] (word)}
      <tr><th scope="row">{word}</th><td>{meaning}</td></tr>
    {/each}
  </tbody>
</table>

<style>
  th {
    width: 180px;
  }
</style>
