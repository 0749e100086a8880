<script lang="ts">
  import { api, got, type Schemas } from '../../lib/api';
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { capital, momentOf, worded } from '../../lib/format';
  import { ask } from '../../lib/query.svelte';
  import { href } from '../../lib/router.svelte';
  import { session } from '../../lib/session.svelte';
  import { fieldName } from '../../lib/words';
  import EarlierPart from './EarlierPart.svelte';
  import PersonDecisions from './PersonDecisions.svelte';

  /** What was decided about somebody, what changed about them, what was done and told. */
  let { view }: { view: Schemas['PersonView'] } = $props();
  const zone = $derived(session.zone);
  const mails = ask(
    ['mails'],
    () => ['mails', 'of', view.id],
    (signal) =>
      got(api.GET('/api/v1/mails', { params: { query: { who: view.id, limit: 20 } }, signal }))
  );
  const told = $derived(mails.data?.items ?? []);
  const changes = (fact: Schemas['FactLine']): string =>
    Object.keys({ ...fact.before, ...fact.after })
      .map((name) => {
        const [before, after] = [fact.before[name], fact.after[name]].map((value) =>
          worded(value ?? '', zone)
        );
        return `${fieldName(name)}: ${before ? `${before} → ` : ''}${after || 'nothing'}`;
      })
      .join('; ');
</script>

<PersonDecisions {view} />
<h2>What changed about them</h2>
{#if view.facts.length}
  <div class="scroll">
    <table class="list">
      <thead
        ><tr
          ><th scope="col">From</th><th scope="col">What</th><th scope="col">Known</th><th
            scope="col">By</th
          ><th scope="col">Why</th></tr
        ></thead
      >
      <tbody>
        {#each view.facts as fact, n (n)}
          <tr>
            <td class="name"><Moment at={fact.effective_at} {zone} /></td>
            <td>{changes(fact)}</td>
            <td class="soft"
              >{fact.known_at > fact.effective_at
                ? `late, ${momentOf(fact.known_at, zone)}`
                : momentOf(fact.known_at, zone)}</td
            >
            <td class="soft">{fact.author}</td>
            <td>{fact.reason}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{:else}<p class="soft">Nothing since they were entered.</p>{/if}
<EarlierPart {view} />
<h2>Dockets</h2>
{#if view.dockets.length}
  <ul>
    {#each view.dockets as docket (docket.id)}
      <li>
        <Moment at={docket.due_at} {zone} />
        <a class="within" href={href({ page: 'docket', name: docket.number })}>{docket.number}</a>
        {capital(docket.title)}, {docket.outcome}
      </li>
    {/each}
  </ul>
{:else}<p class="soft">No docket yet.</p>{/if}
<p>
  <a href={href({ page: 'dockets', query: { who: view.user_name } })}>All of their dockets</a>
</p>
<h2>Mail about them</h2>
<ProblemNote problem={mails.problem} />
{#if told.length}
  <ul>
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

<style>
  ul {
    list-style: none;
    padding: 0;
    margin: 0;
  }
  li {
    padding: 3px 0;
  }
</style>
