import { database } from '../../db/client'
import { getPart } from '../../services/kit'
import { idParam } from '../../utils/request'

export default defineEventHandler(async event => getPart(await database(), idParam(event, 'part')))
