<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, watch } from 'vue'
import { useAsking } from '~/editor/asking'
import { useCommands } from '~/editor/commands'
import { useHandbook } from './handbook'
import { useWhatIsThis } from './what-is-this'

/** A card beside the pointer that says what it is at. */
const props = defineProps<{
  /** On a page that has no commands with keys. */
  isAlone?: boolean
}>()
const asked = useWhatIsThis()
const asking = useAsking()
const commands = useCommands()
/** What is heard there as well. */
const HELP: ReadonlySet<string> = new Set(['Handbook', 'What is this?'])
const handbook = useHandbook()
/** Pixels of the card, at most. */
const [WIDTH, HEIGHT] = [320, 170]

useEventListener(window, 'pointermove', ({ clientX: x, clientY: y }: PointerEvent) => asked.follow({ x, y }), {
  passive: true,
})
useEventListener(
  () => (asked.answer ? window : null),
  'keydown',
  (event: KeyboardEvent) => {
    if (event.key !== 'Escape') return
    event.stopPropagation()
    asked.end()
  },
  { capture: true },
)
useEventListener(
  () => (asked.answer ? window : null),
  'pointerdown',
  (event: PointerEvent) => {
    if (!(event.target as Element).closest('.what-is-this')) asked.end()
  },
  { capture: true },
)

watch(
  () => asking.about,
  mark => {
    asking.ask(null)
    if (mark) void asked.askAbout(mark)
  },
)
// Keys of the page are not heard in a dialog, and not where no level is open.
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  const { target } = event
  if (!(target instanceof Element) || !(props.isAlone || target.closest('.v-dialog'))) return
  // What writes something is meant for the field.
  if (event.key.length === 1 && target.matches('input, textarea')) return
  const command = commands.forEvent(event)
  if (!command || !HELP.has(command.name)) return
  event.preventDefault()
  command.run()
})

/** On the side where there is room. */
const place = computed(() => {
  const { x, y } = asked.answer!.at
  return {
    left: `${x + 16 + WIDTH > window.innerWidth ? Math.max(x - 16 - WIDTH, 4) : x + 16}px`,
    top: `${Math.min(y + 12, window.innerHeight - HEIGHT)}px`,
  }
})

function more(): void {
  handbook.open(asked.answer!.page)
  asked.end()
}
</script>

<template>
  <Teleport to=".v-application">
    <section
      v-if="asked.answer"
      class="sheet what-is-this"
      :style="place"
      role="status"
      aria-label="What this is"
      data-test="what-is-this"
    >
      <h3>
        {{ asked.answer.name }}
        <kbd v-if="asked.answer.keys" class="mono">{{ asked.answer.keys }}</kbd>
      </h3>
      <p>{{ asked.answer.says }}</p>
      <div class="buttons">
        <v-btn size="small" @click="more">More in the handbook</v-btn>
      </div>
    </section>
  </Teleport>
</template>

<style scoped>
.what-is-this {
  position: fixed;
  z-index: 3100;
  width: 320px;
  border: 1px solid var(--petrol);
  border-radius: var(--round);
  box-shadow: 0 4px 18px rgb(0 0 0 / 18%);
}

h3 {
  display: flex;
  gap: 8px;
  align-items: center;
  overflow-wrap: anywhere;
}
</style>
