import { serve } from '~/workers/serve'
import { compareWork } from './compare-work'

serve(compareWork())
