<!-- A file input out of sight, opened by a button or a command; what was chosen is handed on, and the same file can be chosen again. -->
<script lang="ts" module>
  /** The audio that an import takes. */
  export const AUDIO = '.wav,.bwf,.aif,.aiff,.aifc,.flac,.ogg,.oga,.opus,.mp3,audio/*';
</script>

<script lang="ts">
  type Props = { label: string; accept?: string; multiple?: boolean; onfiles: (files: File[]) => void };
  let { label, accept = AUDIO, multiple = true, onfiles }: Props = $props();
  let input = $state<HTMLInputElement>();

  export const choose = () => input?.click();
  const taken = () => {
    const files = [...(input?.files ?? [])];
    if (input) input.value = '';
    if (files.length) onfiles(files);
  };
</script>

<input bind:this={input} class="sr-only" type="file" {multiple} {accept} tabindex="-1" aria-label={label} onchange={taken} />
