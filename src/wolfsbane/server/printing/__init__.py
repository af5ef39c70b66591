"""Paper: the packet for the class and the key, as PDF."""
