import { Global, Module } from '@nestjs/common'
import { Compute } from './compute.service'
import { PiecesService } from './pieces.service'

@Global()
@Module({ providers: [Compute, PiecesService], exports: [Compute, PiecesService] })
export class ComputeModule {}
