// The score of @NAME@. Written by Karakuri; README.txt beside this folder says what to do with it.
#include "play.h"

void setup() { play_begin(); }
void loop() { play_on(); }
