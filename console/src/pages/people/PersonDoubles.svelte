<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import type { Wish } from '../../lib/plan.svelte';
  import { session } from '../../lib/session.svelte';

  let { view, onwish }: { view: Schemas['PersonView']; onwish: (wish: Wish) => void } = $props();
  const LIVE = ['active', 'suspended', 'archived'];
  const live = $derived(view.accounts.filter((a) => LIVE.includes(a.state)));
  /** Where somebody has more than one account: the one under their own login first. */
  const twice = $derived(
    [...new Set(live.map((a) => a.application_id))]
      .map((id) =>
        live
          .filter((a) => a.application_id === id)
          .sort((a, b) => Number(b.login === view.user_name) - Number(a.login === view.user_name))
      )
      .filter((some) => some.length > 1)
  );
</script>

{#each twice as [kept, ...others] (kept?.id)}
  {#if kept}
    <section class="sheet warn" aria-label="Two accounts in {kept.application_name}">
      {kept.application_name}: <b>{kept.login}</b> and
      <b>{others.map((o) => o.login).join(', ')}</b>.
      {#if session.mayAct}
        <button
          class="button slim"
          onclick={() =>
            onwish({ verb: 'recheck', who: [view.id], accounts: others.map((o) => o.id) })}
          >Only {kept.login} stays …</button
        >
      {/if}
    </section>
  {/if}
{/each}
