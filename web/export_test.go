package web

// Policy is the content security policy, for the tests.
const Policy = policy
