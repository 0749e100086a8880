<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { ask } from '../../lib/query.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';

  /** What was told about somebody by mail, the latest first. */
  let { view }: { view: Schemas['PersonView'] } = $props();
  const zone = $derived(session.zone);
  const mails = ask(
    ['mails'],
    () => ['mails', 'of', view.id],
    (signal) =>
      got(api.GET('/api/v1/mails', { params: { query: { who: view.id, limit: 20 } }, signal }))
  );
  const told = $derived(mails.data?.items ?? []);
</script>

<h2>Mail about them</h2>
<ProblemNote problem={mails.problem} />
{#if told.length}
  <ul class="lines">
    {#each told as mail (mail.id)}
      <li>
        <Moment at={mail.made_at} {zone} />
        {mail.subject} <span class="soft">to {mail.address}{mail.sent_at ? '' : ', not sent'}</span>
      </li>
    {/each}
  </ul>
  <p>
    <a href={href({ page: 'mails', query: { who: view.user_name } })}>All of it, with its text</a>
  </p>
{:else if mails.data}<p class="soft">None.</p>{/if}
