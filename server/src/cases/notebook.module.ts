import { Module } from '@nestjs/common'
import { CasesRepository } from './cases.repository'
import { FoundService } from './found.service'
import { SumsService } from './sums.service'

/** What is kept of cases, for those that find something for one. */
@Module({
  providers: [CasesRepository, SumsService, FoundService],
  exports: [CasesRepository, SumsService, FoundService],
})
export class NotebookModule {}
