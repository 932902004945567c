package org.holtra.service.dispatch;

import org.holtra.service.credentials.Credential;

/**
 * What a request shows in place of the outlet's credential.
 *
 * @param token the name of the credential that it is a token of; null if it is none
 * @param ofDevice whether it is the device's, or chosen by it: then its refusal is about the device
 */
public record Presented(Credential credential, String token, boolean ofDevice) {}
