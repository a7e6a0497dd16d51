<!-- A word on the element before it, while the pointer or the focus is there. -->
<script lang="ts">
  import { Tooltip } from 'flowbite-svelte';

  type Props = { text: string; placement?: 'top' | 'bottom' };
  let { text, placement = 'bottom' }: Props = $props();
</script>

<Tooltip
  {placement}
  arrow={false}
  type="custom"
  class="max-w-[320px] rounded-md bg-ink px-2 py-1 text-[12px] font-normal text-paper shadow-lg">{text}</Tooltip
>
