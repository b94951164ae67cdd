import { Readable } from 'node:stream'
import { getRequestHeader } from 'h3'
import type { FeedMessage } from '../../../../../core/api/feed'
import { asEvent, feedQuerySchema } from '../../../../../core/api/feed'
import { untilListening } from '../../../../services/live/live'
import { countNoMore } from '../../../../auth/rate-limits'
import { openFeed } from '../../../../utils/feed-route'
import { log } from '../../../../utils/log'
import { Reply } from '../../../../utils/reply'
import { defineRoute } from '../../../../utils/route'

/** As server-sent events. A browser that comes back says by a header of its own what it knows. */
export default defineRoute('feed', async ({ event, id, query, askerIn, terms }) => {
  // From here on it is heard if that ends which lets them in.
  await untilListening()
  const asker = await askerIn(id, 'look')
  const known = feedQuerySchema.safeParse({ after: getRequestHeader(event, 'last-event-id') }).data
  const feed = await openFeed(id, known?.after ?? query.after, asker, terms.who, terms.signal)
  countNoMore(event)
  return new Reply(Readable.from(eventsOf(feed)), {
    'content-type': 'text/event-stream',
    'cache-control': 'no-store',
    // For proxies that would gather it first.
    'x-accel-buffering': 'no',
  })
})

/** What goes wrong ends it: whoever listens comes again, and goes on where it was. */
async function* eventsOf(feed: AsyncIterable<FeedMessage>): AsyncGenerator<string> {
  try {
    for await (const message of feed) yield asEvent(message)
  } catch (error) {
    log.warn({ err: error }, 'a feed broke')
  }
}
