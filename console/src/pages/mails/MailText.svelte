<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import Moment from '../../lib/components/Moment.svelte';
  import Panel from '../../lib/components/Panel.svelte';
  import { session } from '../../lib/session.svelte';

  let { mail, onclose }: { mail: Schemas['MailRow']; onclose: () => void } = $props();
</script>

<Panel open title={mail.subject} {onclose}>
  <p class="soft">
    To {mail.address}, made <Moment at={mail.made_at} zone={session.zone} />{#if mail.sent_at}, sent
      <Moment at={mail.sent_at} zone={session.zone} />{:else}, not sent yet{mail.problem
        ? `: ${mail.problem}`
        : ''}{/if}.
  </p>
  <pre>{mail.text}</pre>
  {#if mail.kind === 'credential' || mail.kind === 'approval'}
    <p class="soft">The link it carried opens something and is not kept here.</p>
  {/if}
  <p><button class="button" onclick={onclose}>Close</button></p>
</Panel>

<style>
  pre {
    white-space: pre-wrap;
    font-family: inherit;
    margin: 6px 0;
    max-width: 70ch;
  }
</style>
