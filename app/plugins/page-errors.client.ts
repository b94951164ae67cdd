import { defineNuxtPlugin, useRouter } from '#imports'
import { api } from '~/api/client'
import { reportError, watchWindow } from '~/errors/page-errors'

/** Every error of the page arrives at one place. */
export default defineNuxtPlugin(({ vueApp }) => {
  watchWindow(window, console, api.tellError)
  vueApp.config.errorHandler = error => reportError(error, 'component')
  useRouter().onError(error => reportError(error, 'route'))
})
