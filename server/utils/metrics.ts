import { collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client'
import { waitedFor } from '../jobs/asking'
import { jobCounts } from '../jobs/pool'
import { beingDone } from '../jobs/taking'
import { poolCounts } from '../services/database'
import { liveCounts } from '../services/live/live'

// What there is to watch, in the text format of Prometheus (exposition format 0.0.4): of this process alone.

const registry = new Registry()
const PREFIX = 'handy_grid_'
// Memory, processor time, files, and how late the event loop is.
collectDefaultMetrics({ register: registry, prefix: PREFIX })

const requests = new Histogram({
  name: `${PREFIX}request_seconds`,
  help: 'Requests by route of the table and status, from their coming to the end of the answer',
  labelNames: ['route', 'status'],
  buckets: [0.005, 0.02, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 10, 60],
  registers: [registry],
})

/** Counts a request that has been answered. @param seconds that it took */
export function countRequest(route: string, status: number, seconds: number): void {
  requests.observe({ route, status }, seconds)
}

/** A number for each of some words, asked for when it is looked at. */
function gauge(name: string, help: string, label: string, ask: () => Record<string, number>): void {
  new Gauge({
    name: PREFIX + name,
    help,
    labelNames: [label],
    registers: [registry],
    collect() {
      this.reset()
      for (const [word, count] of Object.entries(ask())) this.set({ [label]: word }, count)
    },
  })
}

gauge(
  'live',
  'Who listens to levels: pages and feeds; levels that are listened to; people known on all servers; whether what other servers announce is heard',
  'of',
  liveCounts,
)
gauge(
  'pool_connections',
  'Connections to the database: all, idle ones, and requests that wait for one',
  'state',
  poolCounts,
)
gauge('jobs_running', 'Jobs that are done in processes of their own, by lane', 'lane', () => jobCounts().running)
gauge('jobs_waiting', 'Jobs that wait for their turn, by lane', 'lane', () => jobCounts().waiting)
gauge('queue', 'Jobs of the queue that all processes share: waited for here, and being done here', 'state', () => ({
  waited_for: waitedFor(),
  being_done: beingDone(),
}))

/** All of it as text, and its content type. */
export const readMetrics = async (): Promise<{ text: string; type: string }> => ({
  text: await registry.metrics(),
  type: registry.contentType,
})
