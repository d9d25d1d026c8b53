// What the player asks of a board. One file for each kind of pulse output: hardware_timer.cpp, hardware_i2c.cpp,
// hardware_uart.cpp (a trace, for simulation), hardware_host.cpp (a trace on a computer). To add one, write these six.
#pragma once
#include <stdint.h>

void hw_begin();                                    // pins, clock, watchdog
void hw_pulse(uint8_t output, uint16_t tenths_us);  // from the next frame on; 0 sends none
void hw_light(uint8_t output, uint16_t permille);
void hw_frame(char what, uint32_t number);          // sends what was set, waits for the next 20 ms, feeds the watchdog
bool hw_stop();                                     // somebody asks for a stop
void hw_done();                                     // the score is over and does not loop
