import { serve } from '~/workers/serve'
import { scatterWork } from './scatter-work'

serve(scatterWork())
