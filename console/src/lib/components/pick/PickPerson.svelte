<script lang="ts">
  import { People } from '../../pick.svelte';
  import StateMark from '../StateMark.svelte';
  import Soon from './Soon.svelte';

  interface Props {
    label: string;
    /** The login of who is picked. */
    value: string;
    /** Told at once; `value` is bound as well. */
    onpick?: (login: string) => void;
  }
  let { label, value = $bindable(), onpick }: Props = $props();
  const people = new People(value);
</script>

<Soon
  {label}
  {value}
  shown={people.shown}
  items={people.found}
  valueOf={(p) => p.user_name}
  nameOf={(p) => p.display_name}
  ask={(typed) => people.say(typed)}
  onpick={(login) => {
    value = login;
    people.pick(login);
    onpick?.(login);
  }}
  none={people.none}
  hint="Name, login or number"
>
  {#snippet item(person)}
    <span>
      <b>{person.display_name}</b>
      <span class="soft small"
        >{person.employee_number} · {person.user_name} · {person.department ||
          'no department'}{person.site ? `, ${person.site}` : ''}</span
      >
    </span>
    <StateMark state={person.state} />
  {/snippet}
</Soon>
