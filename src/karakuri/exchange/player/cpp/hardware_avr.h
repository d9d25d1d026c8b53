// Shared by the AVR files: 20 ms from timer 1, lights and the stop switch as pins.h has them, watchdog.
#pragma once
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/wdt.h>
#include <stdint.h>

#include "pins.h"

#ifndef F_CPU
#define F_CPU 16000000UL
#endif
const uint16_t TICKS_FRAME = F_CPU / 8 / 50;  // timer 1 at F_CPU / 8: 0.5 microseconds a tick at 16 MHz

static inline void avr_begin() {
  MCUSR = 0;
  TIMSK0 = 0;  // nobody counts milliseconds here: no interrupt comes between a pulse and its end
  wdt_enable(WDTO_250MS);
  pins_begin();
}

static inline bool avr_stop() { return pins_stop(); }

// False where the light is on no pin of this controller.
static inline bool avr_light(uint8_t output, uint16_t permille) { return pins_light(output, (uint32_t)permille * 255 / 1000); }
