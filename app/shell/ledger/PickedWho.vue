<script setup lang="ts">
import { computed } from 'vue'
import { isArrangement } from '~~/core/arrange/arrangement'
import { KINDS } from '~~/core/level/kinds'
import type { Placement } from '~~/core/level/schema'
import { useEdits } from '~/editor/edits'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { instancesOf } from '~~/core/level/find'

const props = defineProps<{ last: Placement; /** How many are picked in all. */ count: number }>()
const level = useLevel()
const kit = useKit()
const edits = useEdits()
const part = computed(() => (props.last.partId === null ? undefined : kit.part(props.last.partId)))
const instances = computed(() => (part.value ? instancesOf(level.view, part.value.id).length : 0))
const parentName = computed(() => (props.last.parentId === null ? null : level.view.need(props.last.parentId).name))
const isOpenGroup = computed(() => 'open' in props.last.own && props.last.own.open === true)
</script>

<template>
  <div class="who">
    <h2><LongName :name="last.name" /></h2>
    <p v-if="count > 1" class="many">and {{ count - 1 }} more; a number typed goes to all</p>
    <p v-else-if="part" class="quiet part">
      <span>{{ part.kind === 'piece' ? 'Piece' : 'Prop' }} ·</span>
      <v-btn
        class="link"
        variant="plain"
        :title="`Pick all ${instances} instances of ${part.name}`"
        @click="edits.pickInstances()"
      >
        {{ instances === 1 ? '1 instance' : `${instances} instances` }}
      </v-btn>
    </p>
    <p v-else-if="isArrangement(last.own)" class="quiet">
      Arrangement · {{ level.view.countOf(last.id).toLocaleString('en') }} live
    </p>
    <p v-else-if="last.kind === 'group'" class="quiet">
      {{ isOpenGroup ? 'Open group' : 'Group' }} of {{ level.view.children(last.id).length }}
    </p>
    <p v-else class="quiet">{{ KINDS[last.kind].name }}</p>
    <p
      v-if="parentName && count === 1"
      class="quiet inside"
      title="It hangs from this; its numbers are the world's or this one's, as Axes says"
    >
      in {{ parentName }}
    </p>
  </div>
</template>

<style scoped>
.who {
  flex: 1 1 132px;
  min-width: 84px;
  max-width: 260px;
}

.who :is(h2, p) {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

h2 {
  font-size: var(--heading);
}

p {
  font-size: var(--note);
  line-height: 1.4;
}

.part {
  display: flex;
  gap: 0.35em;
}

.part .link {
  flex: 0 1 auto;
  overflow: hidden;
}

.part .link :deep(.v-btn__content) {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
}

.many {
  color: var(--petrol);
}
</style>
