import { serve } from './serve'
import { scatterWork } from './scatter-work'

serve(scatterWork())
