<script lang="ts">
  import { api, got } from '../../lib/api';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { momentOf, plural } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { session } from '../../lib/session.svelte';
  import Moment from '../../lib/components/Moment.svelte';

  const load = ask(
    ['mails'],
    () => ['mails'],
    (signal) => got(api.GET('/api/v1/mails', { signal }))
  );
  const rows = $derived(load.data?.items ?? []);
  const unsent = $derived(rows.filter((r) => !r.sent_at).length);
  const zone = $derived(session.zone);
  let open = $state('');
</script>

<svelte:head><title>Mail · Yugum</title></svelte:head>
<h1>Mail</h1>
{#if load.data}
  <div class="facts">
    <span><b>{plural(load.data.total ?? rows.length, 'mail')}</b></span>
    <span class:short={unsent > 0}><b>{unsent}</b> not sent yet</span>
  </div>
{/if}
<ProblemNote problem={load.problem} />
{#if rows.length}
  <div class="scroll">
    <table class="list">
      <thead>
        <tr><th>Made</th><th>To</th><th>Subject</th><th>Sent</th></tr>
      </thead>
      <tbody>
        {#each rows as row (row.id)}
          <tr>
            <td class="soft"><Moment at={row.made_at} {zone} /></td>
            <td>{row.address}</td>
            <td class="name">
              <button
                class="link"
                aria-expanded={open === row.id}
                onclick={() => (open = open === row.id ? '' : row.id)}>{row.subject}</button
              >
              {#if open === row.id}<pre>{row.text}</pre>
                {#if row.kind === 'credential' || row.kind === 'approval'}
                  <p class="soft">The link it carried opens something and is not kept here.</p>
                {/if}{/if}
            </td>
            <td>
              {#if row.sent_at}{momentOf(row.sent_at, zone)}{:else}<span class="short"
                  >{row.problem || 'on its way'}</span
                >{/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{:else if load.data}
  <p>What Yugum told people stands here: credentials, approvals, reminders, notices.</p>
{/if}

<style>
  .short,
  .short b {
    color: var(--color-error-600-400);
  }
  .link {
    color: var(--color-primary-600-400);
    text-align: left;
  }
  pre {
    white-space: pre-wrap;
    font-family: inherit;
    margin: 6px 0;
    max-width: 70ch;
  }
</style>
