console.log("to come");
