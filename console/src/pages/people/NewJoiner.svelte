<script lang="ts">
  import PickMoment from '../../lib/components/pick/PickMoment.svelte';
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import PickValue from '../../lib/components/pick/PickValue.svelte';
  import { api, got, type Problem, type Schemas } from '../../lib/api';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { plural } from '../../lib/format';
  import { asProblem } from '../../lib/load.svelte';

  interface Props {
    onclose: () => void;
    onmade: (login: string, name: string) => void;
  }
  let { onclose, onmade }: Props = $props();

  const fields = $state({
    given_name: '',
    family_name: '',
    user_name: '',
    mail: '',
    employee_number: '',
    department: '',
    title: '',
    site: '',
    manager: '',
    starts: '',
    contract_ends: '',
    outside_mail: '',
    phone: '',
    mobile: '',
    cost_center: ''
  });
  let tried = $state.raw<Schemas['Tried'][]>([]);
  let gets = $state.raw<Schemas['GivenLine'][] | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let busy = $state(false);
  let another = $state(false);
  let again = $state(false);
  let timer: ReturnType<typeof setTimeout> | undefined;

  /** What the rules would give is asked again a moment after the last key. */
  function look(): void {
    clearTimeout(timer);
    timer = setTimeout(() => void ask(), 350);
  }

  async function ask(): Promise<void> {
    const { department, title, site } = fields;
    try {
      gets = await got(api.POST('/api/v1/people/would-get', { body: { department, title, site } }));
    } catch (error) {
      problem = asProblem(error);
    }
  }

  async function suggest(): Promise<void> {
    if (!fields.family_name) return;
    const { user_name, mail } = fields; // what is typed meanwhile is not written over
    try {
      const body = {
        given: fields.given_name,
        family: fields.family_name,
        department: fields.department
      };
      const found = await got(api.POST('/api/v1/names/suggest', { body }));
      for (const name of found.names) {
        if (name.kind === 'login') {
          if (fields.user_name === user_name) fields.user_name = name.name;
          tried = name.tried.filter((t) => t.problem);
        }
        if (name.kind === 'mail' && fields.mail === mail) fields.mail = name.name;
      }
    } catch (error) {
      problem = asProblem(error);
    }
  }

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    try {
      const person = { ...fields, another, again };
      await got(api.POST('/api/v1/people', { body: { people: [person] } }));
      onmade(person.user_name, `${person.given_name} ${person.family_name}`.trim());
    } catch (error) {
      problem = asProblem(error);
    } finally {
      busy = false;
    }
  }
  const applications = $derived([...new Set((gets ?? []).map((l) => l.application_name))]);
</script>

<Panel open title="New joiner" wide {onclose}>
  <form onsubmit={save}>
    <div class="two">
      <label class="field"
        ><span>Given name</span><input bind:value={fields.given_name} onblur={suggest} /></label
      >
      <label class="field"
        ><span>Family name</span><input
          bind:value={fields.family_name}
          onblur={suggest}
          required
        /></label
      >
      <label class="field"
        ><span>Login</span><input class="mono" bind:value={fields.user_name} required /></label
      >
      <label class="field"><span>Mail address</span><input bind:value={fields.mail} /></label>
    </div>
    {#each tried as one (one.name + one.pattern)}
      <div class="soft small">{one.name || one.pattern}: {one.problem}</div>
    {/each}
    <div class="three">
      <PickValue
        label="Department"
        field="department"
        bind:value={fields.department}
        onpick={look}
      />
      <label class="field"
        ><span>Title</span><input bind:value={fields.title} oninput={look} /></label
      >
      <PickValue label="Site" field="site" bind:value={fields.site} onpick={look} />
      <label class="field"
        ><span>Number</span><input class="mono" bind:value={fields.employee_number} /></label
      >
      <PickPerson label="Manager" bind:value={fields.manager} />
      <label class="field"
        ><span>Outside mail address</span><input bind:value={fields.outside_mail} /></label
      >
      <label class="field"><span>Phone</span><input bind:value={fields.phone} /></label>
      <label class="field"><span>Mobile phone</span><input bind:value={fields.mobile} /></label>
      <label class="field"><span>Cost centre</span><input bind:value={fields.cost_center} /></label>
      <PickMoment label="First day" bind:value={fields.starts} begins />
      <PickMoment label="Contract ends (if it does)" bind:value={fields.contract_ends} />
    </div>
    {#if gets}
      <section aria-label="What the rules give">
        <div>
          <b
            >{gets.length
              ? `Would get ${plural(gets.length, 'thing')} in ${plural(applications.length, 'application')}`
              : 'No role applies yet'}</b
          >
        </div>
        <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
        <div class="scroll gets" role="region" aria-label="Would get" tabindex="0">
          <table class="list">
            <tbody>
              {#each gets as line (line.application_id + line.kind + line.item)}
                <tr>
                  <td class="name">{line.application_name}</td>
                  <td>{line.kind} {line.item}</td>
                  <td>{line.because}</td>
                  <td>{line.note}</td>
                </tr>
              {/each}
            </tbody>
          </table>
        </div>
      </section>
    {/if}
    <ProblemNote {problem} />
    {#if problem?.status === 409}
      <label class="check"
        ><input type="checkbox" bind:checked={another} /> It is another person than who has the number,
        address or name</label
      >
      <label class="check"
        ><input type="checkbox" bind:checked={again} /> Take them in though they were declined</label
      >
    {/if}
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      <button class="button do" disabled={busy}>Save and show the plan</button>
    </div>
  </form>
</Panel>

<style>
  .gets {
    max-height: 26vh;
    overflow-y: auto;
  }
  .small {
    font-size: 12.5px;
  }
</style>
