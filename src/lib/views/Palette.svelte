<!-- The command palette: every command of the view and of the program, found by typing. -->
<script lang="ts">
  import Picker from '$lib/ui/Picker.svelte';
  import type { PageCommand } from '$lib/state/commands.svelte';

  let { commands, onclose }: { commands: readonly PageCommand[]; onclose: () => void } = $props();
  const possible = $derived(commands.filter(({ when }) => !when || when()));
  const choices = $derived(possible.map(({ title, group, keys }, i) => ({ id: String(i), name: title, detail: keys ?? group })));
</script>

<Picker
  title="Commands"
  placeholder="What do you want to do?"
  none="No command is called that."
  {choices}
  makes={[]}
  onpick={(id) => {
    const command = possible[Number(id)];
    onclose();
    command.run();
  }}
  onmake={() => undefined}
  {onclose}
/>
