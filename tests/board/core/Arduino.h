// A stand-in for the core of a 32-bit board, as much as the player asks of one: a clock that goes on whenever it is asked, pins that a script drives.
#pragma once
#include <stdint.h>
#include <stdio.h>
#define HIGH 0x1
#define LOW 0x0
#define INPUT 0x0
#define OUTPUT 0x1
#define INPUT_PULLUP 0x2
#define CHANGE 1
#define PROGMEM
#define memcpy_P memcpy
#define pgm_read_byte(at) (*(const uint8_t *)(at))
#define min(a, b) ((a) < (b) ? (a) : (b))
#define max(a, b) ((a) > (b) ? (a) : (b))
#define abs(x) ((x) > 0 ? (x) : -(x))
#define digitalPinToInterrupt(pin) (pin)
void setup();
void loop();
uint32_t micros();
void yield();
void pinMode(int pin, int mode);
int digitalRead(int pin);
int analogRead(int pin);
void analogWrite(int pin, int level);
void attachInterrupt(int pin, void (*told)(), int how);
struct Stream {
  int letters[8], count;
  int available() { return count; }
  int read() { return count ? letters[--count] : -1; }
};
struct Port : Stream {
  void begin(long baud);
  void print(const char *text);
  void print(unsigned int number);
};
extern Port Serial, Serial1;
