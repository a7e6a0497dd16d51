<!-- A name being typed in its place: Enter or leaving the field takes it, Escape leaves it as it was. -->
<script lang="ts">
  import { Input } from 'flowbite-svelte';
  let { value, label, onname, onclose }: { value: string; label: string; onname: (name: string) => void; onclose: () => void } = $props();
  let done = false;
  const finish = (typed: string | null) => {
    if (done) return;
    done = true;
    onclose();
    const name = typed?.trim();
    if (name && name !== value) onname(name);
  };
  const focused = (input: HTMLInputElement) => {
    input.focus();
    input.select();
  };
</script>

<Input
  class="w-full!"
  maxlength={120}
  {value}
  aria-label={label}
  {@attach focused}
  onpointerdown={(event: PointerEvent) => event.stopPropagation()}
  onblur={(event: FocusEvent) => finish((event.target as HTMLInputElement).value)}
  onkeydown={(event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Enter') finish((event.target as HTMLInputElement).value);
    if (event.key === 'Escape') finish(null);
  }}
/>
