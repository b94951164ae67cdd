<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, ref } from 'vue'
import type { ButtonChord, PointingSet, ViewGesture } from '~/editor/pointing/pointing'
import {
  buttonChordOf,
  buttonLabel,
  POINTING_SETS,
  pointingOf,
  setOf,
  VIEW_GESTURE_NAMES,
  VIEW_GESTURES,
  whyNotButton,
} from '~/editor/pointing/pointing'
import { useSettings } from '~/editor/settings'
import { useSettingKeys } from './setting-keys'

/** Which button and which wheel steer the view. */
const setting = useSettingKeys()
const settings = useSettings()
const pointing = computed(() => settings.kept.pointing)
const waitsFor = ref<ViewGesture | null>(null)
const failed = ref('')
const OWN = 'as set below'
const sets = [...Object.keys(POINTING_SETS), OWN].map(value => ({ value, name: value }))
const set = computed({
  get: () => setOf(pointing.value) ?? OWN,
  set: name => {
    if (name !== OWN) settings.kept.pointing = pointingOf(name as PointingSet)
  },
})
const wheels = [
  { value: 'zoom' as const, name: 'zooms' },
  { value: 'pan' as const, name: 'pans' },
]
const FINGERS = [
  { value: 'pan' as const, name: 'pan, and twist' },
  { value: 'orbit' as const, name: 'orbit' },
]
const places = [
  { value: 'pointer' as const, name: 'the pointer' },
  { value: 'middle' as const, name: 'the middle' },
]
const SPEEDS = [
  { key: 'orbitSpeed', label: 'Speed of turning' },
  { key: 'zoomSpeed', label: 'Speed of zooming' },
] as const
const isShort = (value: number) => (value >= 0 && value <= 3 ? null : 'This must be from 0 to 3.')
const isSpeed = (value: number) => (value >= 0.1 && value <= 10 ? null : 'This must be from 0.1 to 10.')

function remove(gesture: ViewGesture, chord: ButtonChord): void {
  pointing.value[gesture] = pointing.value[gesture].filter(each => each !== chord)
}

/** Takes the button that is pressed on the field for it. */
function take(event: PointerEvent): void {
  const gesture = waitsFor.value
  if (!gesture) return
  event.preventDefault()
  const chord = buttonChordOf(event)
  failed.value = chord ? (whyNotButton(pointing.value, gesture, chord) ?? '') : 'This button has no name here.'
  if (!chord || failed.value) return
  pointing.value[gesture] = [...new Set([...pointing.value[gesture], chord])]
  waitsFor.value = null
}
</script>

<template>
  <FormDialog v-model="setting.isPointingOpen" title="Pointing device" page="keys" max-width="520" data-test="pointing">
    <FormLine label="Begin with">
      <Choice v-model="set" :options="sets" label="Begin with" />
    </FormLine>
    <ul class="gestures">
      <li v-for="gesture in VIEW_GESTURE_NAMES" :key="gesture" :data-gesture="gesture">
        <span>{{ VIEW_GESTURES[gesture] }}</span>
        <span class="buttons-of">
          <v-chip
            v-for="chord in pointing[gesture]"
            :key="chord"
            size="small"
            label
            closable
            :close-label="`Take ${buttonLabel(chord)} from ${VIEW_GESTURES[gesture]}`"
            @click:close="remove(gesture, chord)"
          >
            {{ buttonLabel(chord) }}
          </v-chip>
          <v-btn
            variant="text"
            icon
            width="24"
            height="24"
            :aria-label="`Another button for ${VIEW_GESTURES[gesture]}`"
            :disabled="pointing[gesture].length >= 4"
            @click="waitsFor = waitsFor === gesture ? null : gesture"
          >
            <v-icon :icon="mdiPlus" size="16" />
          </v-btn>
        </span>
      </li>
    </ul>
    <div
      v-if="waitsFor"
      class="field"
      data-test="press-here"
      @pointerdown="take"
      @contextmenu.prevent
      @mousedown.prevent
    >
      Press the button for “{{ VIEW_GESTURES[waitsFor] }}” here, together with Ctrl, Alt or Shift if you like.
    </div>
    <p v-if="failed" role="alert" class="error">{{ failed }}</p>
    <FormLine label="The wheel, or two fingers">
      <Segments v-model="pointing.wheel" :options="wheels" label="The wheel, or two fingers" />
    </FormLine>
    <FormLine label="Two fingers on the stage">
      <Segments v-model="pointing.fingers" :options="FINGERS" label="Two fingers on the stage" />
    </FormLine>
    <p class="quiet hint">A pinch always zooms. A click with the right button opens the menu, whatever a drag does.</p>
    <FormLine label="Zooms to">
      <Segments v-model="pointing.zoomAt" :options="places" label="Zooms to" />
    </FormLine>
    <NumberLine
      v-for="{ key, label } in SPEEDS"
      :key="key"
      :label="label"
      suffix="×"
      :value="pointing[key]"
      :check="isSpeed"
      @commit="pointing[key] = $event"
    />
    <NumberLine
      label="The view goes on for"
      named="The view goes on for, after it was steered"
      suffix="s"
      :decimals="2"
      :value="pointing.goesOn"
      :check="isShort"
      @commit="pointing.goesOn = $event"
    />
    <Tick v-model="pointing.wheelTurned" label="The wheel the other way round" />
    <Tick v-model="pointing.lookTurned" label="Up and down the other way round while looking around" />
    <template #buttons>
      <v-btn color="action" variant="flat" @click="setting.isPointingOpen = false">Done</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.gestures {
  padding: 0;
  list-style: none;
}

.gestures li {
  display: flex;
  align-items: center;
  justify-content: space-between;
  min-height: 30px;
  border-bottom: 1px solid var(--line);
}

.buttons-of {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: flex-end;
  gap: 4px;
}

.field {
  padding: 18px;
  border: 1px dashed var(--petrol);
  border-radius: var(--round-small);
  text-align: center;
  user-select: none;
}
</style>
