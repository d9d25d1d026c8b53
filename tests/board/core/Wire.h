// The bus: what was sent between begin and end is one line.
#pragma once
#include <stdint.h>
struct Bus {
  void begin();
  void setClock(uint32_t hz);
  void beginTransmission(uint8_t address);
  void write(uint8_t value);
  uint8_t endTransmission();
};
extern Bus Wire;
