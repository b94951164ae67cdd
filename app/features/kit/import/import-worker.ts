import { serve } from '~/workers/serve'
import { importWork } from './import-work'

serve(importWork())
