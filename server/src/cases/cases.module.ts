import { Module } from '@nestjs/common'
import { BlobsModule } from '../blobs/blobs.module'
import { FilamentsModule } from '../filaments/filaments.module'
import { LinksModule } from '../links/links.module'
import { MachinesModule } from '../machines/machines.module'
import { MeasurementsModule } from '../measurements/measurements.module'
import { PairsModule } from '../pairs/pairs.module'
import { AttemptsService } from './attempts.service'
import { CasesController } from './cases.controller'
import { CasesService } from './cases.service'
import { FilesService } from './files.service'
import { LessonsService } from './lessons.service'
import { NotebookModule } from './notebook.module'
import { ReportsService } from './reports.service'
import { SetsService } from './sets.service'

@Module({
  imports: [
    NotebookModule,
    LinksModule,
    MeasurementsModule,
    PairsModule,
    MachinesModule,
    FilamentsModule,
    BlobsModule,
  ],
  controllers: [CasesController],
  providers: [CasesService, FilesService, AttemptsService, SetsService, LessonsService, ReportsService],
  exports: [NotebookModule, CasesService, FilesService, AttemptsService, LessonsService],
})
export class CasesModule {}
