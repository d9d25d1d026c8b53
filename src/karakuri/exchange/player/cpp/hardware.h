// What the player asks of a board. One file for each kind of pulse output: hardware_timer.cpp, hardware_i2c.cpp,
// hardware_uart.cpp (a trace, for simulation), hardware_host.cpp (a trace on a computer). To add one, write these ten.
#pragma once
#include <stdint.h>

void hw_begin();                                    // pins, clock, watchdog
void hw_pulse(uint8_t output, uint16_t tenths_us);  // from the next frame on; 0 sends none
void hw_light(uint8_t output, uint16_t permille);
uint16_t hw_reads(uint8_t input);                   // of pins.h: 0 to 1000 of what it can read, of a receiver µs; 0xFFFF nothing
uint8_t hw_cue();                                   // the number of a cue that was given since, from 0 on; 255 none
void hw_say(uint16_t sound);                        // the sound of that number, to whatever plays it
void hw_entered(uint8_t state, uint32_t tick);      // what it does now; for whoever watches
void hw_frame(char what, uint32_t number);          // sends what was set, waits for the next 20 ms, feeds the watchdog
bool hw_stop();                                     // somebody asks for a stop
void hw_done();                                     // the score is over and does not loop

// The number of a cue by its character on a serial line: 1 to 9, then a to z; 255 of anything else.
static inline uint8_t cue_of(uint8_t letter) {
  if (letter >= '1' && letter <= '9') return letter - '1';
  return letter >= 'a' && letter <= 'z' ? letter - 'a' + 9 : 255;
}
