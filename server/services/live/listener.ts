import { sql } from 'drizzle-orm'
import { drizzle } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import { readMessage } from '../../../core/api/live'
import { directConnectionString, LIMITS } from '../../db/client'
import { log } from '../../utils/log'
import type { Announcement } from './announce'
import { announce, announcementSchema, CHANNEL } from './announce'

/** Milliseconds before the first try to connect again, and before any later one at the most. */
const [FIRST_PAUSE, LONGEST_PAUSE] = [250, 10_000]

/** Hears what any server of this database announces, on a connection of its own that comes back by itself. */
export class Listener {
  private client: pg.Client | null = null
  private isOver = false
  /** Whether what is announced is heard. */
  isHearing = false
  private failures = 0
  private before: Promise<unknown> = Promise.resolve()
  private again: ReturnType<typeof setTimeout> | undefined

  /**
   * @param heard what was announced
   * @param begun it is listened from now on: what was announced before may have been missed
   */
  constructor(
    private readonly heard: (said: Announcement) => void,
    private readonly begun: () => void,
  ) {}

  async start(): Promise<void> {
    if (this.isOver) return
    const client = new pg.Client({
      connectionString: directConnectionString(),
      connectionTimeoutMillis: LIMITS.connectionTimeoutMillis,
      query_timeout: LIMITS.connectionTimeoutMillis,
      keepAlive: true,
    })
    this.client = client
    client.on('error', error => this.lost(client, error))
    client.on('end', () => this.lost(client, null))
    client.on('notification', ({ payload }) => this.hear(payload ?? ''))
    try {
      await client.connect()
      await this.inTurn(() => drizzle(client).execute(sql`listen ${sql.identifier(CHANNEL)}`))
      if (this.client !== client) return
      this.failures = 0
      this.isHearing = true
      this.begun()
    } catch (error) {
      this.lost(client, error)
    }
  }

  /** Whether the connection still answers; one that does not is given up. */
  async check(): Promise<void> {
    const { client } = this
    if (!client) return
    await this.inTurn(() => drizzle(client).execute(sql`select 1`)).catch((error: unknown) => this.lost(client, error))
  }

  /** Lets all servers know what no transaction is about; lost where the connection does not stand. */
  say(said: Announcement): void {
    const { client } = this
    if (!client || this.isOver) return
    this.inTurn(() => announce(drizzle(client), said)).catch((error: unknown) => this.lost(client, error))
  }

  /** A connection is asked one thing at a time. */
  private inTurn<T>(ask: () => Promise<T>): Promise<T> {
    const asked = this.before.then(ask)
    this.before = asked.catch(() => {})
    return asked
  }

  async end(): Promise<void> {
    this.isOver = true
    clearTimeout(this.again)
    const { client } = this
    this.client = null
    await client?.end().catch((error: unknown) => log.debug({ err: error }, 'a listener did not end well'))
  }

  private hear(payload: string): void {
    const said = readMessage(announcementSchema, payload)
    if (said) this.heard(said)
    else log.warn({ payload: payload.slice(0, 200) }, 'something else was announced')
  }

  /** Tries again after a pause that grows, at another moment in each process. */
  private lost(client: pg.Client, error: unknown): void {
    if (this.client !== client) return
    this.client = null
    this.isHearing = false
    if (this.isOver) return
    log.warn({ err: error }, 'the database is not listened to for a moment')
    void client.end().catch((late: unknown) => log.debug({ err: late }, 'a listener did not end well'))
    const pause = Math.min(FIRST_PAUSE * 2 ** this.failures++, LONGEST_PAUSE)
    this.again = setTimeout(() => void this.start(), pause * (0.5 + Math.random() / 2))
  }
}
