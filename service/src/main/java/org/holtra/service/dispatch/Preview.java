package org.holtra.service.dispatch;

/**
 * What an attempt would send, byte for byte but for secrets, which are masked.
 *
 * @param head what stands before the body, in the words of the outlet's kind; for http the request line and the headers
 */
public record Preview(String method, String address, String head) {}
