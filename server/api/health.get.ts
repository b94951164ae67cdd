import { health } from '../services/health'
import { defineRoute } from '../utils/route'

export default defineRoute('health', () => health())
