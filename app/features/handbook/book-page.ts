import { defineComponent, h } from 'vue'

/** A page of the handbook. Its HTML is made from our own Markdown, which cannot have any HTML of its own. */
export const BookPage = defineComponent({
  props: { html: { type: String, required: true } },
  setup: props => () => h('article', { innerHTML: props.html }),
})
