<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import { plural } from '../../lib/format';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { Acting } from './acting.svelte';
  import ApplicationDialogs from './ApplicationDialogs.svelte';
  import ApplicationState from './ApplicationState.svelte';
  import ReadingCell from './ReadingCell.svelte';
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
  <td class="reading"><ReadingCell {row} {acting} /></td>
  <td class="num mono">{row.active}</td>
  <td class="num mono">{row.accounts}</td>
  <td class="soft small">{row.contact}</td>
  <td>
    <ApplicationState {row} />
  </td>
  <td class="ways">
    {#if row.attributes.length}
      <button
        class="bare link"
        aria-label="{plural(row.attributes.length, 'attribute')} of accounts in {row.name}"
        onclick={() => (open = 'attributes')}>{plural(row.attributes.length, 'attribute')}</button
      >
    {/if}
    {#if session.mayAdminister}
      <button
        class="bare link"
        aria-label="Disconnect {row.name} …"
        onclick={() => (open = 'leaving')}>Disconnect …</button
      >
    {/if}
  </td>
</tr>
<ApplicationDialogs {row} {open} {close} {done} />

<style>
  .ways button {
    display: block;
    min-height: 28px;
    white-space: nowrap;
  }
  .reading {
    white-space: nowrap;
  }
  .name span {
    font-weight: 400;
  }
</style>
