import { Module } from '@nestjs/common'
import { FilamentsModule } from '../filaments/filaments.module'
import { MachinesModule } from '../machines/machines.module'
import { PairsModule } from '../pairs/pairs.module'
import { ExportsService } from './exports.service'
import { ImportsService } from './imports.service'
import { RecipesController } from './recipes.controller'

@Module({
  imports: [MachinesModule, FilamentsModule, PairsModule],
  controllers: [RecipesController],
  providers: [ExportsService, ImportsService],
})
export class RecipesModule {}
