"""Where strangers' bytes are read: processes of their own, with limits, that hand back tables in shared memory."""
