import { Module } from '@nestjs/common'
import { PairsModule } from '../pairs/pairs.module'
import { TrialsController } from './trials.controller'
import { TrialsRepository } from './trials.repository'
import { TrialsService } from './trials.service'

@Module({
  imports: [PairsModule],
  controllers: [TrialsController],
  providers: [TrialsRepository, TrialsService],
  exports: [TrialsRepository, TrialsService],
})
export class TrialsModule {}
