<script setup lang="ts">
import { computed } from 'vue'
import { limitDefinition } from '~~/core/arrange/scatter/limits'
import { useScattering } from './scattering'

/** What came of the scatter: how much was asked for, how much obtained, and why fewer. */
const emit = defineEmits<{ charts: [] }>()
const scattering = useScattering()
const whole = (value: number) => Math.round(value).toLocaleString('en')
const why = computed(() => {
  const { report, rule } = scattering
  if (!report || report.problem) return []
  const { lostTo, full, placed, asked } = report
  return [
    ...lostTo.limits.flatMap((lost, i) =>
      lost > 0 && rule.limits[i]
        ? [`${whole(lost)} left out: ${limitDefinition(rule.limits[i]).name.toLowerCase()}`]
        : [],
    ),
    ...(lostTo.paint > 0 ? [`${whole(lostTo.paint)} painted away`] : []),
    ...(full && placed < asked - 0.5
      ? [`no more than ${whole(placed)} find room ${rule.keepRoom ? 'without overlapping' : 'at this distance'}`]
      : placed < asked * 0.98 && (rule.keepRoom || rule.apart > 0 || rule.spread === 'clumps')
        ? [`${whole(asked - placed)} find no room ${rule.keepRoom ? 'without overlapping' : 'at this distance'}`]
        : []),
  ]
})
</script>

<template>
  <div
    v-if="(scattering.report && (!scattering.report.problem || scattering.dealt)) || scattering.progress !== null"
    class="report"
    data-test="scatter-report"
    role="status"
  >
    <dl v-if="scattering.report && !scattering.report.problem" class="mono">
      <div>
        <dt>Area</dt>
        <dd data-test="scatter-area">
          {{ scattering.report.area.toLocaleString('en', { maximumFractionDigits: 2 }) }} m²
        </dd>
      </div>
      <div>
        <dt>{{ scattering.rule.measure === 'density' ? 'Asked, about' : 'Asked' }}</dt>
        <dd data-test="scatter-asked">{{ whole(scattering.report.asked) }}</dd>
      </div>
      <div>
        <dt>Obtained</dt>
        <dd data-test="scatter-obtained" :data-rough="scattering.report.rough || scattering.progress !== null">
          {{ whole(scattering.report.obtained) }}
        </dd>
      </div>
    </dl>
    <p v-else-if="scattering.report?.problem && scattering.dealt" class="quiet hint">
      The last good result stays until this is put right.
    </p>
    <p v-for="line in why" :key="line" class="quiet hint">{{ line }}</p>
    <div v-if="scattering.progress !== null" class="line">
      <v-progress-linear :model-value="scattering.progress * 100" color="primary" height="6" aria-label="Dealing" />
      <v-btn class="link" variant="plain" @click="scattering.cancel()">Stop</v-btn>
    </div>
    <v-btn v-if="scattering.dealt && scattering.dealt.count > 1" class="link" variant="plain" @click="emit('charts')">
      Charts …
    </v-btn>
  </div>
</template>

<style scoped>
.report {
  flex: none;
  padding: 6px 8px;
  border: 1px solid var(--line);
  border-radius: var(--round);
}

dl {
  display: flex;
  justify-content: space-between;
  margin: 0;
}

dt {
  color: rgb(var(--v-theme-quiet));
  font: 400 var(--small) var(--text);
}

dd {
  margin: 0;
}
</style>
