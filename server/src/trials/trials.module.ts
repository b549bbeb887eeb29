import { Module } from '@nestjs/common'
import { NotebookModule } from '../cases/notebook.module'
import { PairsModule } from '../pairs/pairs.module'
import { TrialsController } from './trials.controller'
import { TrialsRepository } from './trials.repository'
import { TrialsService } from './trials.service'

@Module({
  imports: [NotebookModule, PairsModule],
  controllers: [TrialsController],
  providers: [TrialsRepository, TrialsService],
  exports: [TrialsRepository, TrialsService],
})
export class TrialsModule {}
