import { serve } from '~/workers/serve'
import { settleWork } from './settle-work'

serve(settleWork())
