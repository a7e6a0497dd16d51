<!-- A name being typed in its place: Enter or leaving the field takes it, Escape leaves it as it was. -->
<script lang="ts">
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

<input
  class="field"
  maxlength="120"
  {value}
  aria-label={label}
  use:focused
  onpointerdown={(event) => event.stopPropagation()}
  onblur={(event) => finish(event.currentTarget.value)}
  onkeydown={(event) => {
    event.stopPropagation();
    if (event.key === 'Enter') finish(event.currentTarget.value);
    if (event.key === 'Escape') finish(null);
  }}
/>

<style>
  input {
    width: 100%;
  }
</style>
