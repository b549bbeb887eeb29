import { worker } from 'workerpool'
import { TASKS } from './tasks'

worker(TASKS)
