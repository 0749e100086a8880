<script lang="ts">
  import { clockOf, dateOf, dayOf } from '../format';
  import { guideOf } from '../guide';
  import { router } from '../router.svelte';
  import { session } from '../session.svelte';
  import { theme } from '../theme.svelte';
  import { times } from '../times.svelte';

  let q = $state('');
  const clock = $derived(session.clock);

  function search(event: SubmitEvent): void {
    event.preventDefault();
    router.go({ page: 'people', query: q.trim() ? { q: q.trim() } : {} });
  }
</script>

<header>
  <form class="search" role="search" onsubmit={search}>
    <label class="visually-hidden" for="search">Find anyone</label>
    <input id="search" bind:value={q} placeholder="Find anyone: name, login, number" />
    <kbd aria-hidden="true">/</kbd>
  </form>
  {#if clock}
    <div class="clock">
      <b
        >{dayOf(clock.now, clock.zone).split(' ')[0]}
        {dateOf(clock.now, clock.zone)}, {clockOf(clock.now, clock.zone)}</b
      >
      <small class="soft">{clock.simulated ? 'simulated clock' : 'clock'} · {clock.zone}</small>
    </div>
  {/if}
  <div class="who">
    <span>{session.view?.operator.name}</span>
    <small>
      <button class="bare link" onclick={() => theme.turn()}>{theme.dark ? 'light' : 'dark'}</button
      >
      ·
      <button class="bare link" aria-pressed={times.exact} onclick={() => times.turn()}
        >exact times</button
      >
      ·
      <a href={guideOf(router.view.page)}>guide</a>
      ·
      <button class="bare link" onclick={() => session.signOut()}>sign out</button>
    </small>
  </div>
</header>

<style>
  header {
    display: flex;
    align-items: center;
    gap: 18px;
    padding: 12px 28px;
    border-bottom: 1px solid var(--color-surface-300-700);
    flex-wrap: wrap;
  }
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
    header {
      padding: 10px 14px;
      gap: 8px 14px;
    }
    .search {
      flex: 1 0 100%;
      max-width: none;
    }
    header .clock {
      margin: 0 auto 0 0;
      text-align: left;
    }
    kbd {
      display: none;
    }
  }
  .clock {
    margin-left: auto;
    text-align: right;
    line-height: 17px;
    display: grid;
  }
  .who {
    display: grid;
    line-height: 17px;
    color: var(--color-surface-600-400);
  }
  small {
    font-size: 12.5px;
  }
</style>
