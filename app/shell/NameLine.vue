<script setup lang="ts">
import { nextTick, onMounted, ref, watch } from 'vue'
import type { NamePart, NamePiece } from '~~/core/level/rename'
import { FIRST_NUMBER, NAME_PARTS } from '~~/core/level/rename'

/** A name as one line: text that is typed, and among it chips for what is another for each thing. */
const pieces = defineModel<NamePiece[]>({ required: true })
type Chip = Exclude<NamePiece, { text: string }>
const SAYS: Record<NamePart, string> = { old: 'old name', number: 'number', part: 'part', layer: 'layer' }

/** Chips with text before, between and after them. */
const texts = ref<string[]>([''])
const chips = ref<Chip[]>([])
const line = ref<HTMLElement>()
/** Where the next chip goes: into which text, after how many letters. */
let caret = { at: 0, letters: 0 }
let isOwn = false

watch(
  pieces,
  next => {
    if (isOwn) return
    const read: { texts: string[]; chips: Chip[] } = { texts: [''], chips: [] }
    for (const piece of next) {
      if ('text' in piece) read.texts[read.texts.length - 1] += piece.text
      else {
        read.chips.push({ ...piece })
        read.texts.push('')
      }
    }
    texts.value = read.texts
    chips.value = read.chips
    caret = { at: read.texts.length - 1, letters: read.texts.at(-1)!.length }
  },
  { immediate: true },
)

function write(): void {
  isOwn = true
  pieces.value = texts.value.flatMap((text, i): NamePiece[] => [
    ...(text === '' ? [] : [{ text }]),
    ...(chips.value[i] ? [{ ...chips.value[i] }] : []),
  ])
  void nextTick(() => (isOwn = false))
}

const inputs = () => [...(line.value?.querySelectorAll('input') ?? [])]

async function goTo(at: number, letters: number): Promise<void> {
  await nextTick()
  const input = inputs()[at]
  input?.focus()
  input?.setSelectionRange(letters, letters)
  caret = { at, letters }
}

/** All of the first text is chosen: what is typed takes its place. */
function focus(): void {
  const at = Math.max(
    texts.value.findIndex(text => text !== ''),
    0,
  )
  const input = inputs()[at]
  input?.focus()
  input?.select()
}

function type(at: number, text: string): void {
  texts.value[at] = text
  write()
}

function note(at: number, event: Event): void {
  caret = { at, letters: (event.target as HTMLInputElement).selectionEnd ?? 0 }
}

/** A chip comes in where the caret is. */
function add(part: NamePart): void {
  const text = texts.value[caret.at]!
  texts.value.splice(caret.at, 1, text.slice(0, caret.letters), text.slice(caret.letters))
  chips.value.splice(caret.at, 0, part === 'number' ? { ...FIRST_NUMBER } : { is: part })
  write()
  void goTo(caret.at + 1, 0)
}

function remove(chip: number): void {
  const before = texts.value[chip]!
  chips.value.splice(chip, 1)
  texts.value.splice(chip, 2, before + texts.value[chip + 1]!)
  write()
  void goTo(chip, before.length)
}

/** Backspace and Delete take the chip beside the caret; arrows go past it. */
function key(at: number, event: KeyboardEvent): void {
  const { selectionStart, selectionEnd, value } = event.target as HTMLInputElement
  if (selectionStart !== selectionEnd) return
  const [isFirst, isLast] = [selectionStart === 0, selectionEnd === value.length]
  if (event.key === 'Backspace' && isFirst && at > 0) remove(at - 1)
  else if (event.key === 'Delete' && isLast && at < chips.value.length) remove(at)
  else if (event.key === 'ArrowLeft' && isFirst && at > 0) void goTo(at - 1, texts.value[at - 1]!.length)
  else if (event.key === 'ArrowRight' && isLast && at < chips.value.length) void goTo(at + 1, 0)
  else return
  event.preventDefault()
}

const numberName = (chip: Chip) =>
  chip.is !== 'number'
    ? SAYS[chip.is]
    : String(chip.start).padStart(chip.width, '0') + (chip.step === 1 ? ' …' : `, ${chip.start + chip.step} …`)

// After the dialog, which takes the focus when it opens.
onMounted(() => requestAnimationFrame(focus))
</script>

<template>
  <div class="pattern">
    <div ref="line" class="line-of-name" role="group" aria-label="New name">
      <template v-for="(text, i) in texts" :key="i">
        <v-text-field
          class="text"
          variant="plain"
          :style="{ width: `${Math.max(text.length, 1) + 1.2}ch`, flexGrow: i === texts.length - 1 ? 1 : 0 }"
          :model-value="text"
          :aria-label="texts.length === 1 ? 'Text of the name' : `Text ${i + 1} of the name`"
          autocomplete="off"
          spellcheck="false"
          @update:model-value="type(i, $event)"
          @keydown="key(i, $event)"
          @keyup="note(i, $event)"
          @click="note(i, $event)"
          @select="note(i, $event)"
        />
        <v-menu v-if="chips[i]?.is === 'number'" :close-on-content-click="false">
          <template #activator="{ props: activator }">
            <v-chip
              v-bind="activator"
              class="chip"
              size="small"
              label
              closable
              title="Width, first number and step"
              @click:close.stop="remove(i)"
            >
              ‹{{ numberName(chips[i]!) }}›
            </v-chip>
          </template>
          <section v-if="chips[i]?.is === 'number'" class="sheet number" aria-label="Number">
            <FormLine label="Digits">
              <v-number-input
                v-model="(chips[i] as { width: number }).width"
                :min="1"
                :max="9"
                aria-label="Digits"
                @update:model-value="write"
              />
            </FormLine>
            <FormLine label="First">
              <v-number-input
                v-model="(chips[i] as { start: number }).start"
                aria-label="First number"
                @update:model-value="write"
              />
            </FormLine>
            <FormLine label="Step">
              <v-number-input
                v-model="(chips[i] as { step: number }).step"
                aria-label="Step"
                @update:model-value="write"
              />
            </FormLine>
          </section>
        </v-menu>
        <v-chip v-else-if="chips[i]" class="chip" size="small" label closable @click:close="remove(i)">
          ‹{{ SAYS[chips[i]!.is] }}›
        </v-chip>
      </template>
    </div>
    <p class="quiet hint add">
      Put in:
      <v-chip
        v-for="part in NAME_PARTS"
        :key="part"
        class="chip"
        size="small"
        label
        variant="outlined"
        @mousedown.prevent
        @click="add(part)"
      >
        {{ SAYS[part] }}
      </v-chip>
      <slot />
    </p>
  </div>
</template>

<style scoped>
.pattern {
  display: flex;
  flex-direction: column;
  gap: 6px;
}

.line-of-name {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  padding: 4px 8px;
  border: 1px solid var(--line);
  border-radius: var(--round-small);
  background: rgb(var(--v-theme-surface));
}

.line-of-name:focus-within {
  border-color: rgb(var(--v-theme-primary));
}

.text {
  flex: none;
  min-width: 1.6ch;
}

.text :deep(input) {
  padding: 2px 0;
  min-height: 26px;
}

.text :deep(input:focus-visible) {
  outline: none;
}

.chip {
  flex: none;
  font-size: var(--small);
}

.chip.v-chip--variant-outlined {
  border-color: var(--line);
}

.chip :deep(.v-chip__close) {
  font-size: calc(14px * var(--scale));
}

.add {
  display: flex;
  gap: 6px;
  align-items: center;
}

.number {
  width: 210px;
}
</style>
