<script setup lang="ts">
import { mdiArrowLeft, mdiBookOpenPageVariantOutline, mdiClose, mdiMagnify } from '@mdi/js'
import type { ComponentPublicInstance } from 'vue'
import { computed, nextTick, ref, watch } from 'vue'
import { api, whatFailed } from '~/api/client'
import { useKeys } from '~/editor/keys/keys'
import { BookPage } from './book-page'
import { meantBy, soughtIn } from './everyday-words'
import { EXAMPLES, useHandbook } from './handbook'

/** A page of the handbook, or what a search in it has found. */
const handbook = useHandbook()
const keys = useKeys()
void handbook.load()
const MOST = 12
const text = ref('')
const failed = ref('')
const article = ref<ComponentPublicInstance>()

const title = computed(() => handbook.content?.titleOf(handbook.page))
const html = computed(() => handbook.content?.pageAsHtml(handbook.page, keys) ?? '')
const example = computed(() => EXAMPLES[handbook.page])

/** By the words themselves, and by everyday words for what has another here. */
const found = computed(() => {
  const { content } = handbook
  if (!content || text.value.trim() === '') return null
  const pages = meantBy(text.value).filter(name => content.PAGES.includes(name))
  const meant = pages.map(page => ({ page, anchor: '', title: content.titleOf(page)!, heading: '' }))
  const names = meantBy(text.value).filter(name => !content.PAGES.includes(name))
  const all = [...meant, ...[soughtIn(text.value), ...names].flatMap(words => content.searchPages(words, MOST))]
  return [...new Map(all.map(each => [each.page, each])).values()].slice(0, MOST)
})

const page = () => article.value?.$el as HTMLElement | undefined

function go(page: string, anchor: string): void {
  text.value = ''
  handbook.open(page || handbook.page, anchor)
}

/** A link within the article: to another page, or to a heading of this one. */
function follow(event: MouseEvent): void {
  const link = (event.target as Element).closest<HTMLElement>('a[data-page]')
  if (!link) return
  event.preventDefault()
  go(link.dataset.page!, link.dataset.anchor!)
}

watch(
  [html, () => handbook.anchor],
  async () => {
    await nextTick()
    const heading = handbook.anchor ? page()?.querySelector(`#hb-${CSS.escape(handbook.anchor)}`) : null
    if (heading) heading.scrollIntoView()
    else page()?.scrollTo(0, 0)
  },
  { immediate: true },
)

async function openExample(): Promise<void> {
  failed.value = ''
  try {
    const { id } = await api.createLevel({ name: `Example: ${title.value}`, from: example.value })
    await navigateTo(`/levels/${id}`)
  } catch (error) {
    failed.value = whatFailed(error)
  }
}
</script>

<template>
  <section class="handbook" aria-label="Handbook" data-test="handbook">
    <div class="line">
      <IconButton
        :icon="mdiArrowLeft"
        label="Page before"
        :disabled="handbook.before.length === 0"
        @click="handbook.back()"
      />
      <IconButton
        :icon="mdiBookOpenPageVariantOutline"
        label="All pages"
        @click="go(handbook.content?.CONTENTS ?? 'README', '')"
      />
      <v-text-field
        v-model="text"
        class="search"
        :prepend-inner-icon="mdiMagnify"
        placeholder="How do I …"
        aria-label="Look in the handbook"
        clearable
      />
      <IconButton :icon="mdiClose" label="Close the handbook" @click="handbook.close()" />
    </div>
    <p v-if="failed" role="alert" class="error">{{ failed }}</p>
    <MenuList v-if="found" class="found" label="Found in the handbook">
      <MenuItem
        v-for="each in found"
        :key="each.page"
        :title="each.title"
        :subtitle="each.heading === each.title ? '' : each.heading"
        @click="go(each.page, each.anchor)"
      />
      <p v-if="found.length === 0" class="quiet none">
        Nothing is said of that. Try another word; all pages are behind the open book.
      </p>
    </MenuList>
    <template v-else>
      <BookPage ref="article" class="page" :html="html" @click="follow" />
      <v-btn v-if="example" class="example" @click="openExample">Open a level with an example</v-btn>
    </template>
  </section>
</template>

<style scoped>
.handbook {
  display: flex;
  flex-direction: column;
  gap: 8px;
  height: 100%;
  min-height: 0;
  padding: 10px 12px;
  background: rgb(var(--v-theme-surface));
  border-left: 1px solid var(--line);
}

.search {
  flex: 1;
}

.found,
.page {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}

.none {
  padding: 8px;
}

.page {
  padding-right: 6px;
  font-size: var(--body);
  line-height: 1.5;
  overflow-wrap: anywhere;
}

.page :deep(:is(h1, h2, h3)) {
  margin: 14px 0 6px;
  line-height: 1.2;
}

.page :deep(h1) {
  margin-top: 0;
  font-size: calc(24px * var(--scale));
}

.page :deep(h2) {
  font-size: calc(18px * var(--scale));
}

.page :deep(p),
.page :deep(ul),
.page :deep(ol) {
  margin: 0 0 9px;
}

.page :deep(:is(ul, ol)) {
  padding-left: 20px;
}

.page :deep(img) {
  max-width: 100%;
  border: 1px solid var(--line);
  border-radius: var(--round-small);
  background: #fbf8f1;
}

.page :deep(table) {
  width: 100%;
  margin-bottom: 10px;
  border-collapse: collapse;
  font-size: var(--small);
}

.page :deep(:is(th, td)) {
  padding: 3px 8px 3px 0;
  border-bottom: 1px solid var(--line);
  text-align: left;
  vertical-align: top;
}

.page :deep(code) {
  font-family: var(--mono);
  font-size: 0.92em;
}

.page :deep(pre) {
  padding: 8px;
  overflow-x: auto;
  border: 1px solid var(--line);
  border-radius: var(--round-small);
}

.page :deep(a) {
  color: var(--petrol);
}

.example {
  flex: none;
}
</style>
