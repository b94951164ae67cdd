// Lets people in by name, changes what they may do and ends them: on a running server, or straight on the database.
import { levelsIn, levelsOf, Misunderstood, named, runCommand } from './lib/target.mjs'

const USAGE = `npm run people -- list
npm run people -- let-in <name> [--role look|note|work|keep]
npm run people -- role <person> <role> [--in <level>]
npm run people -- new-key <person>
npm run people -- end <person>
npm run people -- log

<person> and <level> are ids, or names that only one has. With --in the role is for that level alone: none, look, note, work,
or "same" for the same as elsewhere. A key is shown once and kept nowhere.
--server <address> (http://127.0.0.1:4600 when left out), with its key in HANDY_GRID_KEY; or --database <address>.
Ends with 0 when it is done, 1 when it could not be done, 2 when it was not understood.`

/** How the server is asked for each of its routes for people. */
const ASKED = {
  listPeople: ['GET', '/api/people'],
  letIn: ['POST', '/api/people'],
  patchPerson: ['PATCH', '/api/people/:id'],
  renewKey: ['POST', '/api/people/:id/key'],
  endPerson: ['DELETE', '/api/people/:id'],
  keeperLog: ['GET', '/api/keeper-log'],
}

const onServer = ({ address, ask, read }) => ({
  levels: () => levelsOf({ ask, read }),
  address,
  ask: (route, id, body) =>
    read(async () => {
      const [method, path] = ASKED[route]
      const response = await ask(path.replace(':id', id), {
        method,
        ...(body && { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
      })
      return response.status === 204 ? null : response.json()
    }),
})

const onDatabase = ({ client, job }) => ({
  levels: () => levelsIn(client),
  address: null,
  ask: (route, id, body) => job('peopleAsked', { route, id, body }),
})

/** Who may come in goes before who was ended. */
async function personNamed(target, wanted) {
  const { people } = await target.ask('listPeople')
  const here = people.filter(({ id, endedAt }) => !endedAt || id === wanted)
  return named(
    here.some(({ id, name }) => name === wanted || id === wanted) ? here : people,
    wanted,
    'person',
    'people',
  )
}

function showKey({ address }, { person, key }) {
  console.log(`${person.name}: ${key}`)
  if (address) console.log(`Link: ${new URL(`/enter#key=${key}`, address)}`)
}

const COMMANDS = {
  async 'list'(target) {
    for (const { id, name, role, levels, endedAt } of (await target.ask('listPeople')).people)
      console.log(
        `${id}  ${name}  ${endedAt ? `ended ${endedAt}` : role}${levels.map(each => `; ${each.role} in ${each.level}`).join('')}`,
      )
  },
  async 'let-in'(target, [name], { role = 'work' }) {
    if (!name) throw new Misunderstood('Whom?')
    showKey(target, await target.ask('letIn', undefined, { name, role }))
  },
  async 'role'(target, [who, role], { in: inLevel }) {
    if (!role) throw new Misunderstood('Which role?')
    const person = await personNamed(target, who)
    if (inLevel === undefined) return void (await target.ask('patchPerson', person.id, { role }))
    const { id } = named(await target.levels(), inLevel, 'level', 'levels')
    const others = person.levels.filter(({ level }) => level !== id)
    await target.ask('patchPerson', person.id, {
      levels: role === 'same' ? others : [...others, { level: id, role }],
    })
  },
  async 'new-key'(target, [who]) {
    showKey(target, await target.ask('renewKey', (await personNamed(target, who)).id, {}))
  },
  async 'end'(target, [who]) {
    await target.ask('endPerson', (await personNamed(target, who)).id)
  },
  async 'log'(target) {
    for (const { at, by, did, to, now } of (await target.ask('keeperLog')).entries)
      console.log(`${at}  ${by}: ${did} ${to}${now && `: ${now}`}`)
  },
}

await runCommand({
  usage: USAGE,
  options: { role: { type: 'string' }, in: { type: 'string' } },
  onServer,
  onDatabase,
  main: (target, command, words, given) => {
    if (!Object.hasOwn(COMMANDS, command ?? ''))
      throw new Misunderstood(command ? `"${command}" is no command.` : 'What is to be done?')
    return COMMANDS[command](target, words, given)
  },
})
