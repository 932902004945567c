package org.holtra.service.introductions;

import java.util.List;

/** Devices are known at an outlet's destination now, as this node found or heard: what waits for that may go. */
public record DeviceKnown(String outlet, List<String> devices) {}
