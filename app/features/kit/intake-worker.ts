import { serve } from '~/workers/serve'
import { intakeWork } from './intake-work'

serve(intakeWork())
