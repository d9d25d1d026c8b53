// A bus of one data wire: what is sent at once is one line, with its pace.
#pragma once
#include <stddef.h>
#include <stdint.h>
enum { MSBFIRST = 1, SPI_MODE0 = 0 };
struct SPISettings {
  uint32_t hz;
  SPISettings(uint32_t pace, int, int) : hz(pace) {}
};
struct Spi {
  uint32_t hz;
  void begin();
  void beginTransaction(SPISettings settings);
  void transfer(void *bytes, size_t count);
  void endTransaction();
};
extern Spi SPI;
