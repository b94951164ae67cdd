import { serve } from '~/workers/serve'
import { checkWork } from './check-work'

serve(checkWork())
