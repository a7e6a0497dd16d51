<!-- Asks for a session's name: its new one, or that of its copy. -->
<script lang="ts">
  import { Button, Input, Modal } from 'flowbite-svelte';

  type Props = { title: string; name: string; action: string; onname: (name: string) => void; onclose: () => void };
  let { title, name: given, action, onname, onclose }: Props = $props();
  // svelte-ignore state_referenced_locally (the dialog is made anew for each)
  let name = $state(given);
</script>

<Modal open size="xs" {title} {onclose}>
  <form
    onsubmit={(event) => {
      event.preventDefault();
      onname(name.trim());
    }}
  >
    <label>Name <Input class="w-full!" bind:value={name} required maxlength={120} /></label>
    <Button type="submit" size="sm">{action}</Button>
  </form>
</Modal>

<style>
  form,
  label {
    display: grid;
    gap: 10px;
  }
  label {
    gap: 4px;
    color: var(--muted);
    font-size: 12px;
  }
</style>
