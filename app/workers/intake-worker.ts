import { serve } from './serve'
import { intakeWork } from './intake-work'

serve(intakeWork())
