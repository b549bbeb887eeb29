import { Module } from '@nestjs/common'
import { FilamentsModule } from '../filaments/filaments.module'
import { MachinesModule } from '../machines/machines.module'
import { PairsController } from './pairs.controller'
import { PairsRepository } from './pairs.repository'
import { PairsService } from './pairs.service'
import { ReadinessService } from './readiness.service'
import { RelativesService } from './relatives.service'
import { VersionsRepository } from './versions.repository'
import { VersionsService } from './versions.service'

@Module({
  imports: [MachinesModule, FilamentsModule],
  controllers: [PairsController],
  providers: [
    PairsRepository,
    VersionsRepository,
    PairsService,
    VersionsService,
    RelativesService,
    ReadinessService,
  ],
  exports: [PairsRepository, VersionsRepository, PairsService, VersionsService],
})
export class PairsModule {}
