<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { capital, money, plural, together } from '../../lib/format';
  import { href } from '../../lib/router.svelte';

  /** What somebody holds and owns now, and the latest dockets about them. */
  let { view }: { view: Schemas['PersonView'] } = $props();
  const seats = $derived(view.seats.filter((s) => s.state === 'held'));
  const cost = $derived(together(seats.map((s) => s.cost)));
  const entitlements = $derived(
    view.accounts.flatMap((a) => a.holdings.filter((h) => h.kind === 'entitlement' && !h.nested))
  );
  const byRole = $derived(entitlements.filter((e) => e.because.startsWith('role ')).length);
  const owned = $derived.by(() => {
    const kinds: Record<string, number> = {};
    for (const a of view.accounts)
      for (const [kind, n] of Object.entries(a.owned)) kinds[kind] = (kinds[kind] ?? 0) + n;
    return Object.entries(kinds);
  });
</script>

<section>
  <h2>Held now</h2>
  <table class="list">
    <tbody>
      <tr>
        <td class="name">{plural(seats.length, 'seat')}</td>
        <td>{seats.map((s) => s.license).join(', ') || '–'}</td>
        <td class="soft">{money(cost) ? `${money(cost)} a month` : ''}</td>
      </tr>
      <tr>
        <td class="name">{plural(entitlements.length, 'entitlement')}</td>
        <td>{byRole} by role, {entitlements.length - byRole} otherwise</td>
        <td class="soft">{view.roles.map((r) => r.name).join(', ')}</td>
      </tr>
      <tr>
        <td class="name">owns</td>
        <td>{owned.map(([kind, n]) => plural(n, kind)).join(', ') || 'nothing'}</td>
        <td class="soft"
          >{view.successor ? `to ${view.successor.name} on leaving` : 'no successor'}</td
        >
      </tr>
      {#each view.dockets.slice(0, 4) as docket (docket.id)}
        <tr>
          <td><a href={href({ page: 'docket', name: docket.number })}>{docket.number}</a></td>
          <td>{capital(docket.title)}</td>
          <td class="soft"
            >{docket.outcome}{docket.steps_stuck ? `, ${docket.steps_stuck} stuck` : ''}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
</section>
