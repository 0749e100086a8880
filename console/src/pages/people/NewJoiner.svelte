<script lang="ts">
  import PickMoment from '../../lib/components/pick/PickMoment.svelte';
  import PickPerson from '../../lib/components/pick/PickPerson.svelte';
  import PickValue from '../../lib/components/pick/PickValue.svelte';
  import Panel from '../../lib/components/Panel.svelte';
  import ProblemNote from '../../lib/components/ProblemNote.svelte';
  import { NewJoiner } from './joiner.svelte';
  import WouldGet from './WouldGet.svelte';

  interface Props {
    onclose: () => void;
    onmade: (login: string, name: string) => void;
  }
  let { onclose, onmade }: Props = $props();
  const joiner = new NewJoiner();
  const fields = joiner.fields;

  async function save(event?: SubmitEvent): Promise<void> {
    event?.preventDefault();
    const made = await joiner.save();
    if (made) onmade(made.login, made.name);
  }
</script>

<Panel open title="New joiner" wide {onclose}>
  <form onsubmit={save}>
    <div class="two">
      <label class="field"
        ><span>Given name</span><input
          bind:value={fields.given_name}
          onblur={joiner.suggest}
        /></label
      >
      <label class="field"
        ><span>Family name</span><input
          bind:value={fields.family_name}
          onblur={joiner.suggest}
          required
        /></label
      >
      <label class="field"
        ><span>Login</span><input class="mono" bind:value={fields.user_name} required /></label
      >
      <label class="field"><span>Mail address</span><input bind:value={fields.mail} /></label>
    </div>
    {#each joiner.tried as one (one.name + one.pattern)}
      <div class="soft small">{one.name || one.pattern}: {one.problem}</div>
    {/each}
    <div class="three">
      <PickValue
        label="Department"
        field="department"
        bind:value={fields.department}
        onpick={joiner.look}
      />
      <label class="field"
        ><span>Title</span><input bind:value={fields.title} oninput={joiner.look} /></label
      >
      <PickValue label="Site" field="site" bind:value={fields.site} onpick={joiner.look} />
      <label class="field"
        ><span>Number</span><input class="mono" bind:value={fields.employee_number} /></label
      >
      <PickPerson label="Manager" bind:value={fields.manager} />
      <label class="field"
        ><span>Outside mail address</span><input bind:value={fields.outside_mail} /></label
      >
      <label class="field"
        ><span>Birthday, kept as a digest</span><input
          type="date"
          bind:value={fields.birthday}
        /></label
      >
      <label class="field"><span>Phone</span><input bind:value={fields.phone} /></label>
      <label class="field"><span>Mobile phone</span><input bind:value={fields.mobile} /></label>
      <label class="field"><span>Cost centre</span><input bind:value={fields.cost_center} /></label>
      <PickMoment label="First day" bind:value={fields.starts} begins />
      <PickMoment label="Contract ends (if it does)" bind:value={fields.contract_ends} />
    </div>
    {#if joiner.gets}<WouldGet lines={joiner.gets} />{/if}
    <ProblemNote
      problem={joiner.problem}
      onright={(place) => {
        joiner.isRight(place);
        void save();
      }}
    />
    {#if joiner.problem?.code === 'conflict'}
      <label class="check"
        ><input type="checkbox" bind:checked={joiner.another} /> It is another person than who has the
        number, address, name or birthday</label
      >
      <label class="check"
        ><input type="checkbox" bind:checked={joiner.again} /> Take them in though they were declined</label
      >
    {/if}
    <div class="buttons">
      <button class="button plain" type="button" onclick={onclose}>Close</button>
      <button class="button do" disabled={joiner.busy}>Save and show the plan</button>
    </div>
  </form>
</Panel>
