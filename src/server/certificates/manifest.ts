import type { Manifest } from '../manifest';
import { SYSTEM } from '../access';
import { forgetCertificates, sealCertificatesAnew } from '.';
import { certificateRoutes } from './routes';

export const certificatesRoom: Manifest = {
  room: 'certificates',
  tables: ['certificate'],
  routes: certificateRoutes,
  ends: forgetCertificates,
  reencrypts: { 'keys of certificates': (app) => sealCertificatesAnew(app, SYSTEM) },
};
