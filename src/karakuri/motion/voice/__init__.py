"""From how loud a voice is to how far a jaw opens: the follower, where it turns, and how far a drive can go along."""
