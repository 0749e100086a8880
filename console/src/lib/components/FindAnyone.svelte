<script lang="ts">
  import { router } from '../router.svelte';

  let q = $state('');

  function search(event: SubmitEvent): void {
    event.preventDefault();
    router.go({ page: 'people', query: q.trim() ? { q: q.trim() } : {} });
  }
</script>

<form class="search" role="search" onsubmit={search}>
  <label class="visually-hidden" for="search">Find anyone</label>
  <input id="search" bind:value={q} placeholder="Find anyone: name, login, number" />
  <kbd aria-hidden="true">/</kbd>
</form>

<style>
  .search {
    position: relative;
    flex: 1;
    max-width: 420px;
    min-width: 200px;
  }
  kbd {
    position: absolute;
    right: 10px;
    top: 8px;
    font: 12px var(--font-mono);
    border: 1px solid var(--color-surface-300-700);
    border-radius: 3px;
    padding: 0 5px;
    color: var(--color-surface-600-400);
  }
  @media (max-width: 640px) {
    .search {
      flex: 1 0 100%;
      max-width: none;
    }
    kbd {
      display: none;
    }
  }
</style>
