<!-- What has just happened, said at the foot of the page until it is dismissed or has stood long enough; whoever shows it takes it away. -->
<script lang="ts">
  import { Toast } from 'flowbite-svelte';

  let { text, ondismiss }: { text: string; ondismiss: () => void } = $props();
</script>

<div class="toast" role="status" aria-live="polite">
  {#if text}
    <Toast
      role="presentation"
      params={{ y: 12, duration: 160 }}
      closeAriaLabel="Dismiss this message"
      classes={{ close: 'bg-transparent text-paper hover:bg-muted dark:bg-transparent dark:text-paper' }}
      class="max-w-[560px] rounded-lg bg-ink px-4 py-2 text-[13px] text-paper shadow-xl dark:bg-ink dark:text-paper"
      onclose={ondismiss}>{text}</Toast
    >
  {/if}
</div>

<style>
  .toast {
    position: fixed;
    bottom: 82px;
    left: 50%;
    z-index: 60;
    transform: translateX(-50%);
  }
</style>
