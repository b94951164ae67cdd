import { serve } from './serve'
import { checkWork } from './check-work'

serve(checkWork())
