// All there is to do for whoever runs it. On its own: what such boards' own core calls INPUT and OUTPUT is something else in the player's files.
#pragma once

void play_begin();  // pins and clock, then the slow start
void play_on();     // one frame more; holds park while somebody asks for a stop, and once it is over
