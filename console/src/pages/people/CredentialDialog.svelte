<script lang="ts">
  import NewPassword from '../../lib/components/NewPassword.svelte';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import ReasonField from '../../lib/components/ReasonField.svelte';
  import Segments from '../../lib/components/Segments.svelte';
  import { href } from '../../lib/router.svelte';
  import CredentialLink from './CredentialLink.svelte';
  import { Credential, type Way } from './credential.svelte';

  interface Props {
    account: string;
    onclose: () => void;
  }
  let { account, onclose }: Props = $props();
  // svelte-ignore state_referenced_locally
  const it = new Credential(account);
  const WAYS: Record<Way, string> = {
    made: 'Generated',
    typed: 'Typed',
    sent: 'Link to another address'
  };
</script>

<Panel open title="Credential" {onclose}>
  <div class="stack">
    {#if it.rules}<p>{it.rules.login} in {it.rules.application}</p>{/if}
    <Segments label="How" hidden options={WAYS} bind:value={it.way} />
    <ProblemNote problem={it.problem} />
    {#if it.docket}
      <p role="status">
        It is being set: <a href={href({ page: 'docket', name: it.docket })}>{it.docket}</a>.
      </p>
    {:else if it.sent}
      <p role="status">The link has gone to {it.sent}; it opens once.</p>
    {:else if it.way === 'sent'}
      <CredentialLink {it} />
    {:else}
      {#if it.way === 'typed' && it.rules}
        <NewPassword label="Password" rules={it.rules} bind:value={it.password} />
        <p>The owner gets a mail that it was set, without it. Tell it in person.</p>
      {:else}
        <p>Told of by a link as the first one was. The one there is stops working.</p>
      {/if}
      <ReasonField bind:value={it.reason} />
    {/if}
  </div>
  <div class="buttons">
    <button class="button plain" onclick={onclose}>Close</button>
    {#if it.docket || it.sent}
      <!-- done -->
    {:else if it.way === 'sent' && !it.mail}
      <button class="button" disabled={!it.good || it.busy} onclick={() => it.send(true)}
        >Look at the mail</button
      >
    {:else if it.way === 'sent'}
      <button class="button do" disabled={!it.good || it.busy} onclick={() => it.send(false)}
        >Send it</button
      >
    {:else}
      <button class="button do" disabled={!it.good || it.busy} onclick={it.set}>Set it</button>
    {/if}
  </div>
</Panel>

<style>
  .stack {
    display: grid;
    gap: 10px;
    margin-bottom: 14px;
  }
</style>
