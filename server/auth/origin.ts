import { isIP } from 'node:net'

// A page of any site can send requests to any address its visitor can reach, loopback included. What tells them from
// our own page is what the browser adds and no script can change: Host, Origin and Sec-Fetch-Site (Fetch standard;
// Fetch Metadata, W3C).

/** The name or address in a Host header, without its port; null if it is none. */
export function hostName(header: string | undefined): string | null {
  const found = /^(\[[0-9a-f:.]+\]|[a-z0-9._-]+)(:\d{1,5})?$/i.exec(header ?? '')
  return found ? found[1]!.replace(/^\[|\]$/g, '').toLowerCase() : null
}

/**
 * Whether a request was sent to a name the server goes by. An address cannot be made to mean another machine by
 * somebody's name server, so any will do.
 */
export function isOurHost(header: string | undefined, names: ReadonlySet<string>): boolean {
  const name = hostName(header)
  return name !== null && (isIP(name) !== 0 || names.has(name))
}

/** An IPv4 address as it is; of an IPv6 address the first 64 bits. What is no address stays as it is. */
export function networkOf(address: string): string {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1]
  if (mapped || isIP(address) !== 6) return mapped ?? address
  // The URL standard writes IPv6 addresses in one way, without embedded IPv4 and zones.
  const [head = '', tail] = new URL(`http://[${address.split('%')[0]}]`).hostname.slice(1, -1).split('::')
  const [first, last] = [head.split(':').filter(Boolean), (tail ?? '').split(':').filter(Boolean)]
  const groups =
    tail === undefined
      ? first
      : [...first, ...Array.from({ length: 8 - first.length - last.length }, () => '0'), ...last]
  return `${groups.slice(0, 4).join(':')}::/64`
}

/** Whether a request comes from our own page, or from no browser at all. */
export function isOwnRequest(headers: { host?: string; origin?: string; fetchSite?: string }): boolean {
  const { host, origin, fetchSite } = headers
  if (fetchSite !== undefined && fetchSite !== 'same-origin' && fetchSite !== 'none') return false
  return (
    origin === undefined || hostOf(origin) === hostOf(`http://${host}`) || hostOf(origin) === hostOf(`https://${host}`)
  )
}

/** Name and port, the port also where it is the usual one. */
function hostOf(origin: string): string | null {
  try {
    const url = new URL(origin)
    return `${url.hostname}:${url.port || (url.protocol === 'https:' ? 443 : 80)}`
  } catch {
    return null
  }
}
