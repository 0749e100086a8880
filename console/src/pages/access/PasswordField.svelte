<script lang="ts">
  interface Props {
    value: string;
    required?: boolean;
  }
  let { value = $bindable(), required = true }: Props = $props();
</script>

<label class="field"
  ><span>Your present password</span><input
    type="password"
    autocomplete="current-password"
    {required}
    bind:value
  /></label
>
