import { serve } from '~/workers/serve'
import { readingWork } from './reading-work'

serve(readingWork())
