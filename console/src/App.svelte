<script lang="ts">
  import Shell from './lib/components/Shell.svelte';
  import { router } from './lib/router.svelte';
  import { session } from './lib/session.svelte';
  import Credential from './pages/signin/Credential.svelte';
  import Access from './pages/access/Access.svelte';
  import Applications from './pages/applications/Applications.svelte';
  import Groups from './pages/groups/Groups.svelte';
  import Findings from './pages/findings/Findings.svelte';
  import Approve from './pages/approve/Approve.svelte';
  import LastCall from './pages/lastcall/LastCall.svelte';
  import Mail from './pages/mail/Mail.svelte';
  import Rules from './pages/rules/Rules.svelte';
  import Calendar from './pages/calendar/Calendar.svelte';
  import Joiners from './pages/joiners/Joiners.svelte';
  import Waiting from './pages/waiting/Waiting.svelte';
  import Day from './pages/day/Day.svelte';
  import Docket from './pages/dockets/Docket.svelte';
  import Dockets from './pages/dockets/Dockets.svelte';
  import People from './pages/people/People.svelte';
  import Person from './pages/people/Person.svelte';
  import Seats from './pages/seats/Seats.svelte';
  import SignIn from './pages/signin/SignIn.svelte';
  import Words from './pages/words/Words.svelte';

  const view = $derived(router.view);
  void session.ask();
</script>

{#if view.page === 'credential'}
  <Credential />
{:else if view.page === 'approve'}
  <Approve />
{:else if !session.asked}
  <p class="visually-hidden" role="status">Loading</p>
{:else if !session.view || view.page === 'welcome'}
  <SignIn />
{:else}
  <Shell>
    {#key view}
      {#if view.page === 'day'}
        <Day />
      {:else if view.page === 'people'}
        <People q={view.q} />
      {:else if view.page === 'person'}
        <Person who={view.who} />
      {:else if view.page === 'dockets'}
        <Dockets />
      {:else if view.page === 'docket'}
        <Docket name={view.name} />
      {:else if view.page === 'seats'}
        <Seats />
      {:else if view.page === 'groups'}
        <Groups />
      {:else if view.page === 'applications'}
        <Applications />
      {:else if view.page === 'findings'}
        <Findings />
      {:else if view.page === 'waiting'}
        <Waiting />
      {:else if view.page === 'last-call'}
        <LastCall />
      {:else if view.page === 'joiners'}
        <Joiners />
      {:else if view.page === 'calendar'}
        <Calendar />
      {:else if view.page === 'rules'}
        <Rules />
      {:else if view.page === 'mail'}
        <Mail />
      {:else if view.page === 'access'}
        <Access />
      {:else if view.page === 'words'}
        <Words />
      {:else}
        <h1>Nothing is here</h1>
        <p>There is no page at this address. <a href="/">Go to the day sheet</a>.</p>
      {/if}
    {/key}
  </Shell>
{/if}
