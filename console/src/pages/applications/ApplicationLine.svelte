<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { Acting } from './acting.svelte';
  import ApplicationDialogs from './ApplicationDialogs.svelte';
  import ApplicationState from './ApplicationState.svelte';
  import Moment from '../../lib/components/Moment.svelte';
  import TrustCell from './TrustCell.svelte';

  interface Props {
    row: Schemas['ApplicationRow'];
    changed: () => void;
  }
  let { row, changed }: Props = $props();
  let open = $state<'' | 'leaving' | 'attributes'>('');
  const acting = new Acting(
    () => row,
    () => changed()
  );
  const zone = $derived(session.zone);
  const close = () => (open = '');
  const done = () => {
    open = '';
    changed();
  };
</script>

<tr>
  <td class="name"
    ><a href={href({ page: 'application', id: row.id })}>{row.name}</a>
    <span class="soft small">{row.kind}</span></td
  >
  <td>
    <TrustCell {row} {acting} />
  </td>
  <td class="reading">
    {#if row.kind === 'sign-on'}
      <span class="soft">has no accounts of its own</span>
    {:else if row.reading_at}
      <Moment at={row.reading_at} {zone} />
    {:else}
      <span class="soft">not read yet</span>
    {/if}
    {#if row.kind !== 'sign-on'}
      <button class="plain" disabled={acting.busy !== ''} onclick={() => acting.read()}
        >{acting.busy || 'Read now'}</button
      >
    {/if}
    <ProblemNote problem={acting.problem} />
  </td>
  <td class="num mono">{row.active}</td>
  <td class="num mono">{row.accounts}</td>
  <td class="soft small">{row.contact}</td>
  <td>
    <ApplicationState {row} />
  </td>
  <td class="ways">
    {#if row.attributes.length}
      <button
        class="plain"
        aria-label="{plural(row.attributes.length, 'attribute')} of accounts in {row.name}"
        onclick={() => (open = 'attributes')}>{plural(row.attributes.length, 'attribute')}</button
      >
    {/if}
    {#if session.mayAdminister}
      <button class="plain" aria-label="Disconnect {row.name} …" onclick={() => (open = 'leaving')}
        >Disconnect …</button
      >
    {/if}
  </td>
</tr>
<ApplicationDialogs {row} {open} {close} {done} />

<style>
  .ways button {
    display: block;
    min-height: 28px;
  }
  .reading {
    white-space: nowrap;
  }
  .name span {
    font-weight: 400;
  }
  .plain {
    font: inherit;
    background: var(--color-surface-100-900);
    color: var(--color-surface-contrast-50-950);
    border: 1px solid var(--color-surface-300-700);
    border-radius: 4px;
    padding: 3px 6px;
  }
  .plain {
    border: 0;
    background: none;
    color: var(--color-primary-600-400);
    cursor: pointer;
    white-space: nowrap;
  }
</style>
