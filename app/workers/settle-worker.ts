import { serve } from './serve'
import { settleWork } from './settle-work'

serve(settleWork())
