<!-- One Tooltip for the whole page: it shows the `data-hint` of what the pointer or the keyboard's focus rests on. One for every element
  would cost each row of a long list a part of its own. Within grids, focus says nothing: it would cover the rows that are being gone through. -->
<script lang="ts">
  import { Tooltip } from 'flowbite-svelte';

  /** How long one rests on something before it says a word, in ms; longer than the word before takes to fade. */
  const REST = 450;
  let open = $state(false);
  let text = $state('');
  let hinted: Element | null = null;
  /** What described it before: nothing, mostly. */
  let described: string | null = null;
  let waiting = 0;

  function leave() {
    clearTimeout(waiting);
    open = false;
    if (hinted?.hasAttribute('data-hinted')) {
      hinted.removeAttribute('data-hinted');
      if (described === null) hinted.removeAttribute('aria-describedby');
      else hinted.setAttribute('aria-describedby', described);
    }
    hinted = null;
  }
  function rest(target: EventTarget | null) {
    const element = target instanceof Element ? target.closest('[data-hint]') : null;
    if (element === hinted) return;
    leave();
    if (!element) return;
    hinted = element;
    waiting = window.setTimeout(() => {
      const words = element.getAttribute('data-hint');
      if (!words || !element.isConnected) return leave();
      text = words;
      element.setAttribute('data-hinted', '');
      described = element.getAttribute('aria-describedby');
      element.setAttribute('aria-describedby', described === null ? 'hint' : `${described} hint`);
      open = true;
    }, REST);
  }
  const onfocusin = ({ target }: FocusEvent) => {
    const element = target as Element;
    if (element.matches(':focus-visible') && !element.closest('[role=grid], [role=treegrid]')) rest(element);
  };
</script>

<svelte:document
  onpointerover={({ target, pointerType }) => pointerType !== 'touch' && rest(target)}
  onpointerleave={leave}
  {onfocusin}
  onfocusout={leave}
  onpointerdown={leave}
  onkeydown={leave}
  onwheel={leave}
/>
<!-- What the Tooltip takes for its trigger: it would make the hinted element itself one that can be tabbed to. -->
<span id="hint-trigger" hidden></span>
<Tooltip
  id="hint"
  triggeredBy="#hint-trigger"
  reference="[data-hinted]"
  bind:isOpen={open}
  placement="bottom"
  arrow={false}
  type="custom"
  class="pointer-events-none max-w-[320px] rounded-md bg-ink px-2 py-1 text-[12px] font-normal break-words whitespace-pre-line text-paper shadow-lg"
  >{text}</Tooltip
>
