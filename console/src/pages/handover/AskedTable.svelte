<script lang="ts">
  import Moment from '../../lib/components/Moment.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { session } from '../../lib/session.svelte';
  import AskedForm from './AskedForm.svelte';
  import { Questions } from './asked.svelte';

  const asked = new Questions();
</script>

<ProblemNote problem={asked.load.problem} />
{#if asked.rows.length}
  <section aria-label="Who is asked">
    <h2>Who is asked whether they take it over</h2>
    <div class="scroll">
      <table class="list">
        <thead
          ><tr>
            <th scope="col">Asked</th><th scope="col">What</th><th scope="col">Of</th><th
              scope="col">Until</th
            >{#if session.mayAct}<th scope="col"
                ><span class="visually-hidden">What can be done</span></th
              >{/if}
          </tr></thead
        >
        <tbody>
          {#each asked.rows as row (row.id)}
            <tr>
              <th scope="row" class="name">{row.heir_name}</th>
              <td>{plural(row.count, row.thing)} in {row.application_name}</td>
              <td><a href="/people/{row.user_name}">{row.name}</a></td>
              <td class="soft"
                >{#if row.answer_by}<Moment at={row.answer_by} zone={session.zone} />{:else}not
                  asked yet{/if}{#if !row.address}
                  · no address{/if}</td
              >
              {#if session.mayAct}<td
                  ><button
                    class="bare link"
                    aria-label="Note an answer … of {row.heir_name}, the {row.thing} of {row.name}"
                    onclick={() => asked.begin(row)}>Note an answer …</button
                  ></td
                >{/if}
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    {#if asked.load.data?.next}
      <p class="soft">These are the first; <code>yugum handover asked</code> has all of them.</p>
    {/if}
    {#if asked.about}<AskedForm {asked} />{/if}
  </section>
{/if}
