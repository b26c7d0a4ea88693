import Joi from 'joi';
import { reason, shape } from '../../contract';

/** The customer's code has to be typed, in whatever case. */
export const confirmation = (code: string): Joi.ObjectSchema =>
  shape({
    code: Joi.string()
      .trim()
      .uppercase()
      .valid(code)
      .required()
      .messages({ 'any.only': `this is ${code}`, 'string.empty': `type ${code}` }),
    reason,
    data: Joi.string().valid('kept', 'destroyed'),
  });
