import { readiness } from '../services/health'
import { defineRoute } from '../utils/route'

export default defineRoute('ready', () => readiness())
