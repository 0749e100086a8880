<script lang="ts">
  import type { Schemas } from '../../lib/api';
  import AccountActions from './AccountActions.svelte';
  import StateMark from '../../lib/components/StateMark.svelte';
  import { plural } from '../../lib/format';
  import { duty } from '../../lib/words';
  import type { Wish } from '../../lib/plan.svelte';
  import { session } from '../../lib/session.svelte';
  import Moment from '../../lib/components/Moment.svelte';

  let { view, onwish }: { view: Schemas['PersonView']; onwish: (wish: Wish) => void } = $props();
</script>

{#if view.accounts.length}
  <h2>Accounts</h2>
  <div class="scroll">
    <table class="list">
      <thead>
        <tr
          ><th>Application</th><th>Login</th><th>Holds, and why</th><th>Ways in</th><th>Seen</th><th
            >State</th
          ></tr
        >
      </thead>
      <tbody>
        {#each view.accounts as account (account.id)}
          <tr>
            <td class="name">{account.application_name}</td>
            <td class="mono">{account.login}</td>
            <td>
              {#each account.holdings as holding (`${holding.kind} ${holding.item} ${holding.nested}`)}
                <div>{holding.item} <span class="soft">because {holding.because}</span></div>
              {:else}<span class="soft">nothing</span>{/each}
            </td>
            <td
              >{plural(account.sessions, 'session')}{#if account.keys}, {plural(
                  account.keys,
                  'key'
                )}{/if}</td
            >
            <td class="soft"
              >{#if account.seen_at}<Moment
                  at={account.seen_at}
                  zone={session.zone}
                />{:else}never{/if}</td
            >
            <td>
              <StateMark
                state={account.state}
                locked={account.locked}
                invited={account.invited_at !== null}
              />
              {#if account.invited_at}
                <div class="small soft">
                  since <Moment at={account.invited_at} zone={session.zone} />
                </div>
              {/if}
              {#if account.duties.length}
                <div class="small soft">
                  to do at the first sign-in: {account.duties.map(duty).join(', ')}
                </div>
              {/if}
              {#if account.recoverable_until}
                <div class="small soft">
                  back until <Moment at={account.recoverable_until} zone={session.zone} />
                </div>
              {/if}
              {#if session.mayAct && account.state !== 'purged'}
                <AccountActions {account} {onwish} />
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
{/if}
