import { Global, Module } from '@nestjs/common'
import { BlobsModule } from '../blobs/blobs.module'
import { Compute } from './compute.service'
import { PiecesService } from './pieces.service'

@Global()
@Module({ imports: [BlobsModule], providers: [Compute, PiecesService], exports: [Compute, PiecesService] })
export class ComputeModule {}
