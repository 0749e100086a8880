<script lang="ts">
  import { guideOf } from '../guide';
  import { router } from '../router.svelte';
  import { session } from '../session.svelte';
  import { theme } from '../theme.svelte';
  import { times } from '../times.svelte';
  import Clock from './Clock.svelte';
  import FindAnyone from './FindAnyone.svelte';
</script>

<header>
  <FindAnyone />
  <Clock />
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
  @media (max-width: 640px) {
    header {
      padding: 10px 14px;
      gap: 8px 14px;
    }
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
