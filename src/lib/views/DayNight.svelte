<!-- Day or night: the button at the right of every page's head; who shows it knows which it is, and can turn it by a command too. -->
<script lang="ts" module>
  export const isDark = () => document.documentElement.classList.contains('dark');

  /** Turns day into night and back, for this browser. */
  export function turnTheme(): boolean {
    const dark = document.documentElement.classList.toggle('dark');
    localStorage.setItem('theme', dark ? 'dark' : 'light');
    return dark;
  }
</script>

<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import Moon from '@lucide/svelte/icons/moon';
  import Sun from '@lucide/svelte/icons/sun';
  import { icon } from '$lib/ui/theme';

  let { dark, onturn }: { dark: boolean; onturn: () => void } = $props();
  const word = $derived(dark ? 'Day colours' : 'Night colours');
</script>

<Button color="alternative" class={icon} aria-label={word} data-hint={word} onclick={onturn}
  >{#if dark}<Sun size={16} />{:else}<Moon size={16} />{/if}</Button
>
