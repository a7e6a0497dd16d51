<!-- The symbol of a role. -->
<script lang="ts">
  import type { Component } from 'svelte';
  import Cylinder from '@lucide/svelte/icons/cylinder';
  import Disc from '@lucide/svelte/icons/disc-3';
  import Drum from '@lucide/svelte/icons/drum';
  import Egg from '@lucide/svelte/icons/egg';
  import Feather from '@lucide/svelte/icons/feather';
  import Guitar from '@lucide/svelte/icons/guitar';
  import KeyboardMusic from '@lucide/svelte/icons/keyboard-music';
  import Megaphone from '@lucide/svelte/icons/megaphone';
  import MessageSquare from '@lucide/svelte/icons/message-square';
  import Metronome from '@lucide/svelte/icons/metronome';
  import MicVocal from '@lucide/svelte/icons/mic-vocal';
  import Piano from '@lucide/svelte/icons/piano';
  import Ruler from '@lucide/svelte/icons/ruler';
  import Sparkles from '@lucide/svelte/icons/sparkles';
  import User from '@lucide/svelte/icons/user-round';
  import Users from '@lucide/svelte/icons/users-round';
  import Warehouse from '@lucide/svelte/icons/warehouse';
  import Wind from '@lucide/svelte/icons/wind';
  import type { Role } from '$core/session/roles';

  let { role, size = 14 }: { role: string; size?: number } = $props();
  const MARKS: Record<Role, Component<{ size?: number }>> = {
    drum: Drum,
    percussion: Egg,
    pan: Disc,
    bass: Cylinder,
    guitar: Guitar,
    keys: Piano,
    synth: KeyboardMusic,
    strings: Feather,
    brass: Megaphone,
    wind: Wind,
    choir: Users,
    backing: User,
    voice: MicVocal,
    speech: MessageSquare,
    effect: Sparkles,
    room: Warehouse,
    key: Metronome,
    reference: Ruler
  };
  const Mark = $derived((MARKS as Record<string, Component<{ size?: number }> | undefined>)[role]);
</script>

{#if Mark}<Mark {size} />{:else}<span style:display="inline-block" style:width="{size}px"></span>{/if}
