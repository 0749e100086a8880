<script lang="ts">
  import { api, got, Problem, type Schemas } from '../../lib/api';
  import Later from '../../lib/components/Later.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { clockOf, dateOf, exactly, momentOf, plural } from '../../lib/format';
  import { session } from '../../lib/session.svelte';

  interface Props {
    row: Schemas['ApplicationRow'];
    changed: () => void;
  }
  let { row, changed }: Props = $props();
  let busy = $state('');
  let setting = $state(false);
  let leaving = $state(false);
  let attributes = $state(false);
  let problem = $state.raw<Problem | null>(null);
  const zone = $derived(session.zone);

  async function act(what: string, call: () => Promise<unknown>): Promise<void> {
    busy = what;
    problem = null;
    try {
      await call();
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      problem = error;
    }
    busy = '';
    changed();
  }
  const path = $derived({ path: { application_id: row.id } });
  const read = () =>
    act('Reading', () =>
      got(api.POST('/api/v1/applications/{application_id}/read', { params: path }))
    );
  const trust = (value: string) =>
    act('Saving', () =>
      got(
        api.PATCH('/api/v1/applications/{application_id}/trust', {
          params: path,
          body: { trust: value as Schemas['Trust'] }
        })
      )
    );
</script>

<tr>
  <td class="name"
    >{#if session.mayAdminister && row.kind !== 'sign-on'}<button
        class="plain"
        title="Windows, seats and limits"
        onclick={() => (setting = true)}>{row.name}</button
      >{:else}{row.name}{/if}
    <span class="soft small">{row.kind}</span></td
  >
  <td>
    <select
      aria-label="What Yugum may do in {row.name}"
      value={row.trust}
      disabled={busy !== ''}
      onchange={(e) => trust(e.currentTarget.value)}
    >
      <option value="watch">watch</option>
      <option value="add">add</option>
      <option value="full">do everything</option>
    </select>
  </td>
  <td class="reading">
    {#if row.kind === 'sign-on'}
      <span class="soft">has no accounts of its own</span>
    {:else if row.reading_at}
      <span title={exactly(row.reading_at, zone)}>{momentOf(row.reading_at, zone)}</span>
    {:else}
      <span class="soft">not read yet</span>
    {/if}
    {#if row.kind !== 'sign-on'}
      <button class="plain" disabled={busy !== ''} onclick={read}>{busy || 'Read now'}</button>
    {/if}
    <ProblemNote {problem} />
  </td>
  <td class="num mono">{row.active}</td>
  <td class="num mono">{row.accounts}</td>
  <td class="soft small">{row.contact}</td>
  <td>
    {#if row.problem}
      <span class="bad">▲ {row.problem}</span>
    {:else if row.paused_until}
      <span class="warn" title={exactly(row.paused_until, zone)}
        >paused until {clockOf(row.paused_until, zone)}, cut-offs pass</span
      >
    {:else if row.covered === false}
      <span class="bad">▲ its sign-on is not cut off by Yugum</span>
    {:else if row.covered}
      <span>covered by the sign-on of {row.through}</span>
    {:else}
      <span>answers</span>
    {/if}
    {#if row.credential_ends}
      <div class="soft small">credential until {dateOf(row.credential_ends, zone)}</div>
    {/if}
  </td>
  <td class="ways">
    {#if row.attributes.length}
      <button
        class="plain"
        aria-label="{plural(row.attributes.length, 'attribute')} of accounts in {row.name}"
        onclick={() => (attributes = true)}>{plural(row.attributes.length, 'attribute')}</button
      >
    {/if}
    {#if session.mayAdminister}
      <button class="plain" aria-label="Disconnect {row.name} …" onclick={() => (leaving = true)}
        >Disconnect …</button
      >
    {/if}
  </td>
</tr>
{#if attributes}<Later
    load={() => import('./Attributes.svelte')}
    {row}
    onclose={() => (attributes = false)}
  />{/if}
{#if leaving}
  <Later
    load={() => import('./Disconnect.svelte')}
    id={row.id}
    name={row.name}
    connected
    onclose={() => (leaving = false)}
    ondone={() => {
      leaving = false;
      changed();
    }}
  />
{/if}
{#if setting}
  <Later
    load={() => import('./Profile.svelte')}
    {row}
    onclose={() => (setting = false)}
    onsaved={() => {
      setting = false;
      changed();
    }}
  />
{/if}

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
  .bad {
    color: var(--signal-text);
    font-weight: 600;
  }
  .warn {
    color: var(--suspended);
    font-weight: 600;
  }
  select,
  .plain {
    font: inherit;
    background: var(--sheet);
    color: var(--ink);
    border: 1px solid var(--rule);
    border-radius: 4px;
    padding: 3px 6px;
  }
  .plain {
    border: 0;
    background: none;
    color: var(--accent);
    cursor: pointer;
    white-space: nowrap;
  }
  .name .plain {
    padding: 0;
    white-space: normal;
    font-weight: inherit;
    text-align: left;
  }
</style>
