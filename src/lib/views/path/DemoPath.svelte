<!-- The card of the guided path: the step one is on, what to do, on and back, and the way out. -->
<script lang="ts">
  import { Button, StepIndicator } from 'flowbite-svelte';
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import X from '@lucide/svelte/icons/x';
  import { goToStep, leavePath, stepIn } from '$lib/state/demoPath.svelte';
  import type { SessionStore } from '$lib/state/session.svelte';
  import { STEPS } from './steps';

  let { store }: { store: SessionStore } = $props();
  const place = $derived(stepIn(store.id));
  const step = $derived(place === null ? null : STEPS[place]);
  const here = $derived(step !== null && page.url.pathname.endsWith(`/${step.view}`));
  /** What the step changes, as it was when it began. */
  let begun = $state('');
  let now = $state('');
  $effect(() => {
    const mark = step?.mark;
    begun = now = mark ? untrack(() => mark(store.session)) : '';
    return mark ? store.onChanges(() => (now = mark(store.session))) : undefined;
  });
  const done = $derived(!step?.mark || now !== begun);
  const go = async (to: number) => {
    if (to >= STEPS.length) return leavePath();
    goToStep(to);
    await goto(`/s/${store.id}/${STEPS[to].view}`);
  };
</script>

{#if step && place !== null}
  <aside aria-label="Guided path">
    <div class="head">
      <strong>{place + 1} of {STEPS.length}: {step.title}</strong>
      <button aria-label="Leave the path" data-hint="Leave the path" onclick={leavePath}><X size={14} /></button>
    </div>
    <StepIndicator steps={STEPS.map(({ title }) => title)} currentStep={place + 1} hideLabel clickable={false} size="xs" />
    <p>{step.text}</p>
    <div class="act">
      {#if !here}<Button size="xs" onclick={() => void go(place)}>Show where</Button>{/if}
      {#if place > 0}<Button size="xs" color="alternative" onclick={() => void go(place - 1)}>Back</Button>{/if}
      {#if here}
        <Button size="xs" color={done ? 'primary' : 'alternative'} onclick={() => void go(place + 1)}
          >{place === STEPS.length - 1 ? 'Done' : done ? 'Next' : 'Skip'}</Button
        >
      {/if}
    </div>
  </aside>
{/if}

<style>
  aside {
    position: absolute;
    bottom: 84px;
    right: 14px;
    z-index: 30;
    display: grid;
    gap: 8px;
    width: 330px;
    padding: 12px 14px;
    border: 1px solid var(--kelp);
    border-radius: 10px;
    background: var(--sheet);
    box-shadow: 0 6px 24px rgb(0 0 0 / 0.16);
  }
  .head {
    display: flex;
    align-items: center;
    justify-content: space-between;
  }
  .head button {
    display: grid;
    place-items: center;
    width: 24px;
    height: 24px;
    color: var(--muted);
  }
  p {
    margin: 0;
  }
  .act {
    display: flex;
    justify-content: flex-end;
    gap: 8px;
  }
</style>
