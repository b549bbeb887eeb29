import { Module } from '@nestjs/common'
import { BlobsModule } from '../blobs/blobs.module'
import { FilamentsModule } from '../filaments/filaments.module'
import { LinksModule } from '../links/links.module'
import { MachinesModule } from '../machines/machines.module'
import { MeasurementsModule } from '../measurements/measurements.module'
import { PairsModule } from '../pairs/pairs.module'
import { AttemptsService } from './attempts.service'
import { CasesController } from './cases.controller'
import { CasesRepository } from './cases.repository'
import { CasesService } from './cases.service'
import { FilesService } from './files.service'
import { LessonsService } from './lessons.service'
import { ReportsService } from './reports.service'
import { SetsService } from './sets.service'
import { SumsService } from './sums.service'

@Module({
  imports: [LinksModule, MeasurementsModule, PairsModule, MachinesModule, FilamentsModule, BlobsModule],
  controllers: [CasesController],
  providers: [
    CasesRepository,
    CasesService,
    FilesService,
    AttemptsService,
    SetsService,
    SumsService,
    LessonsService,
    ReportsService,
  ],
  exports: [SumsService, CasesRepository, CasesService, FilesService, AttemptsService, LessonsService],
})
export class CasesModule {}
