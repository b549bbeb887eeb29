import { Module } from '@nestjs/common'
import { AccessModule } from '../access/access.module'
import { BlobsModule } from '../blobs/blobs.module'
import { CasesModule } from '../cases/cases.module'
import { DiagnosisModule } from '../diagnosis/diagnosis.module'
import { FilamentsModule } from '../filaments/filaments.module'
import { LinksModule } from '../links/links.module'
import { MachinesModule } from '../machines/machines.module'
import { PairsModule } from '../pairs/pairs.module'
import { TrialsModule } from '../trials/trials.module'
import { InspectionService } from './inspection.service'
import { PracticeService } from './practice.service'
import { PrintsController } from './prints.controller'
import { PrintsRepository } from './prints.repository'
import { PrintsService } from './prints.service'

@Module({
  imports: [
    AccessModule,
    MachinesModule,
    FilamentsModule,
    PairsModule,
    TrialsModule,
    CasesModule,
    BlobsModule,
    LinksModule,
    DiagnosisModule,
  ],
  controllers: [PrintsController],
  providers: [PrintsRepository, PrintsService, InspectionService, PracticeService],
  exports: [PrintsService],
})
export class PrintsModule {}
