import { database } from '../../../db/client'
import { getLevel } from '../../../services/levels'
import { idParam } from '../../../utils/request'

export default defineEventHandler(async event => getLevel(await database(), idParam(event, 'level')))
